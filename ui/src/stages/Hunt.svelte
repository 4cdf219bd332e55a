<script lang="ts">
  // A list of the circuit's suspects, with what was seen at each.
  import type { Job, Stage } from '../lib/api/client';
  import { go } from '../lib/job';
  import { keys } from '../lib/keys.svelte';
  import { send } from '../lib/outbox.svelte';
  import Main from '../parts/Main.svelte';
  import Remind from '../parts/Remind.svelte';
  import RigSeen from '../parts/RigSeen.svelte';

  let { job }: { job: Job; stage: Stage } = $props();
  // Held on to by its id: what others see meanwhile may put the suspects in another order.
  let held = $state('');
  let note = $state('');
  let kind = $state<'fault' | 'meant' | 'forgotten opening'>('fault');
  const open = $derived(job.state === 'open');
  const at = $derived(
    Math.max(
      0,
      job.suspects.findIndex((s) => s.id === held),
    ),
  );
  const here = $derived(job.suspects[at]);

  function look(seen: boolean): void {
    if (!here || !open) return;
    send('/api/jobs/{id}/looks', job.id, {
      part: here.id,
      method: 'eyes',
      seen,
      class: seen ? kind : '',
      note: seen ? note : '',
    });
    note = '';
    if (!seen) move(1);
  }
  function move(by: number): void {
    const next = Math.max(0, Math.min(job.suspects.length - 1, at + by));
    held = job.suspects[next]?.id ?? '';
    document.getElementById(`suspect-${next}`)?.scrollIntoView({ block: 'nearest' });
  }
  $effect(() =>
    keys([
      { key: 'y', says: 'Seen: it leaks here', where: 'Hunt', do: () => look(true), when: () => open },
      { key: 'x', says: 'Nothing seen here', where: 'Hunt', do: () => look(false), when: () => open },
      { key: 's', says: 'Next suspect', where: 'Hunt', do: () => move(1) },
      { key: 'ArrowDown', says: 'Next suspect', where: 'Hunt', do: () => move(1) },
      { key: 'ArrowUp', says: 'Suspect before', where: 'Hunt', do: () => move(-1) },
    ]),
  );
</script>

{#if here && open}
  <div class="sticky top-0 z-10 rounded border-2 border-ink bg-page p-3">
    <p class="text-lg font-bold">{here.title}</p>
    <p>{here.look}</p>
    {#if here.cover}<p class="small" data-cover>
        {here.cover.charAt(0).toUpperCase() + here.cover.slice(1)}.{#if here.within}
          There: {here.within}{/if}
      </p>{/if}
    {#each job.imitators.filter((m) => m.parts?.includes(here.id)) as m (m.id)}<p class="small" data-alike>
        {m.says}
      </p>{/each}
    <div class="mt-2 flex flex-wrap items-end gap-2">
      <button class="btn btn-main" onclick={() => look(true)}
        >It leaks here <span class="key opacity-80">Y</span></button
      >
      <button class="btn" onclick={() => look(false)}>Nothing <span class="key text-mute">X</span></button>
      <label class="grow"
        ><span class="sr-only">Note</span><input
          class="field"
          bind:value={note}
          placeholder="what was seen, where exactly"
          maxlength="300"
        /></label
      >
      <label class="w-44">
        <span class="sr-only">What kind of escape</span>
        <select class="field" bind:value={kind}>
          <option value="fault">a fault</option>
          <option value="meant">meant to be</option>
          <option value="forgotten opening">an opening forgotten</option>
        </select>
      </label>
    </div>
  </div>
{/if}
<RigSeen {job} />
<ol class="border-t border-rule">
  {#each job.suspects as s, i (s.id)}
    {@const last = s.seen.at(-1)}
    <li id="suspect-{i}" class="border-b border-rule" data-part={s.id} data-seen={last?.seen}>
      <button
        class="grid min-h-11 w-full grid-cols-[1fr_auto] items-center gap-x-4 px-2 py-1.5 text-left {i ===
          at && open
          ? 'bg-brass-wash'
          : ''}"
        aria-current={i === at && open ? 'true' : undefined}
        onclick={() => (held = s.id)}
      >
        <span class={last?.seen && last.class !== 'meant' ? 'font-bold text-vermilion' : ''}
          >{s.title}
          <span
            class="mt-0.5 block h-1 bg-mute/50"
            style="width: {Math.max(1, s.share * 100)}%"
            aria-hidden="true"
          ></span><span class="sr-only">, {Math.round(s.share * 100)} in 100</span></span
        >
        <span class="text-right small">
          {#if !last}not looked at{:else if last.seen}{last.class === 'fault'
              ? 'leak seen'
              : last.class}{last.note ? `: ${last.note}` : ''}, {last.by}{:else}nothing seen, {last.by}{/if}
        </span>
      </button>
    </li>
  {/each}
</ol>
<div><Main says="Bleed down and put right" act={() => go(job, 'put-right')}>Bleed down</Main></div>
{#if open}<Remind {job} />{/if}
