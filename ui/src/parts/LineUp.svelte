<script lang="ts">
  // Holds in progress, on every screen.
  import { live } from '../lib/live.svelte';
  import { keys } from '../lib/keys.svelte';
  import { navigate, p, route } from '../lib/routes';
  import { faultWords, ringWords } from '../lib/show';
  import Ring from './Ring.svelte';
  import Since from './Since.svelte';

  const opened = $state<Record<string, number>>({}); // calls already looked at
  // A call that has been looked at no longer stands out.
  $effect(() => {
    for (const h of live.running) {
      if (route.pathname.startsWith(`/jobs/${h.job_id}`)) opened[h.id] = h.calls.length;
    }
  });

  // The hold that is worked on this page is shown large already.
  const others = $derived(
    live.running.filter(
      (h) =>
        !(
          route.pathname.startsWith(`/jobs/${h.job_id}/`) &&
          [h.stage, 'pressurise', 'hold'].some((s) => route.pathname.endsWith(`/${s}`))
        ),
    ),
  );

  function step(by: number): void {
    const list = live.running;
    if (!list.length) return;
    const at = list.findIndex((h) => route.pathname.startsWith(`/jobs/${h.job_id}`));
    const h = list[(at + by + list.length) % list.length]!;
    void navigate('/jobs/:id/:stage', { params: { id: h.job_id, stage: h.stage } });
  }
  $effect(() =>
    keys([
      {
        key: ']',
        says: 'Next hold of the line-up',
        where: 'Everywhere',
        do: () => step(1),
        when: () => live.running.length > 0,
      },
      {
        key: '[',
        says: 'Hold before',
        where: 'Everywhere',
        do: () => step(-1),
        when: () => live.running.length > 0,
      },
    ]),
  );
</script>

{#if others.length}
  <nav aria-label="Holds in progress" class="flex gap-2 overflow-x-auto border-b border-rule px-4 py-1.5">
    {#each others as h (h.id)}
      {@const loud = h.calls.length > (opened[h.id] ?? 0)}
      <a
        href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: h.stage } })}
        class="flex min-h-11 shrink-0 items-center gap-2.5 rounded border-[1.5px] bg-page px-3 no-underline {loud
          ? 'border-[3px] border-ink font-bold'
          : 'border-rule'}"
      >
        <Ring kind={h.ring} size={26} />
        <span class="max-w-40 truncate">{h.machine}</span>
        {#if h.purpose === 'rig proof'}<span class="small">rig</span>{/if}
        <span class="text-xl font-bold figures">{h.value ? h.value.text : '–'}</span>
        <span class="small">{h.unit}</span>
        {#if h.faults.length}<span class="rounded bg-brass-wash px-1.5 text-sm"
            >gauge {faultWords[h.faults[0]!.kind]}</span
          >{/if}
        <span class="small figures"
          >{#if h.calls.length}{h.ring === 'nicked' ? 'tight' : ringWords[h.ring]}{:else}<Since
              hold={h}
              brief
            />{/if}</span
        >
      </a>
    {/each}
  </nav>
{/if}
