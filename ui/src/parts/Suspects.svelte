<script lang="ts">
  // The suspects, the likeliest first, with bars that move; one opens to what raised it and what
  // lowered it, its looks, and its photos.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Job } from '../lib/api/client';
  import { send } from '../lib/outbox.svelte';
  import { dayTime } from '../lib/show';
  import SuspectRing from './SuspectRing.svelte';
  import Snap from './Snap.svelte';

  let { job, at, choose }: { job: Job; at: string; choose: (id: string) => void } = $props();
  let all = $state(false);
  const few = 8;
  const shown = $derived(
    all ? job.suspects : job.suspects.filter((s, i) => i < few || s.id === at || s.faulty),
  );
  const here = $derived(job.suspects.find((s) => s.id === at));
  const why = createQuery(() => ({
    queryKey: ['why-suspect', job.id, at, job.facts.length, job.holds.length],
    queryFn: () => get('/api/jobs/{id}/why-suspect', { id: job.id, query: { part: at } }),
    enabled: here !== undefined,
  }));
  const times = (x: number) =>
    x >= 1.05
      ? `×${x < 10 ? x.toFixed(1) : Math.round(x)}`
      : x <= 0.95
        ? `÷${1 / x < 10 ? (1 / x).toFixed(1) : Math.round(1 / x)}`
        : '=';
  const method = (id: string) => job.hunt.methods.find((m) => m.id === id)?.title ?? id;
</script>

<ol class="border-t border-rule" aria-label="Suspects">
  {#each shown as s (s.id)}
    {@const last = s.seen.at(-1)}
    <li class="border-b border-rule" data-part={s.id} data-seen={last?.seen} data-odds={s.share.toFixed(4)}>
      <button
        id="suspect-{s.id}"
        class="grid min-h-12 w-full grid-cols-[auto_minmax(0,1fr)_auto] items-center gap-x-2 px-1 py-1 text-left {s.id ===
        at
          ? 'bg-brass-wash'
          : ''}"
        aria-expanded={s.id === at}
        onclick={() => choose(s.id === at ? '' : s.id)}
      >
        <SuspectRing suspect={s} />
        <span class={s.faulty ? 'font-bold text-vermilion' : ''}
          >{s.title}
          <span
            class="mt-0.5 block h-1.5 bg-mute/60"
            style="width: {Math.max(1, s.share * 100)}%"
            aria-hidden="true"
          ></span></span
        >
        <span class="text-right small figures"
          >{s.share < 0.005 ? '< 1' : Math.round(s.share * 100)} in 100</span
        >
      </button>
      {#if s.id === at}
        <div class="border-l-4 border-brass py-1 pl-2 small">
          <p>{s.look}</p>
          {#each s.seen as o (o.at + o.method)}
            <p class="flex flex-wrap items-center gap-2">
              <span class="grow">{method(o.method)}: {o.says}, {o.by} {dayTime(o.at)}</span>
              {#if job.state === 'open'}<button
                  class="btn px-2"
                  data-take-back={o.method}
                  onclick={() =>
                    send('/api/jobs/{id}/looks', job.id, {
                      part: s.id,
                      method: o.method,
                      seen: false,
                      class: 'taken back',
                    })}>Take back</button
                >{/if}
            </p>
          {/each}
          {#if why.data?.length}
            <ul data-why={s.id}>
              {#each why.data.filter((w) => Math.abs(Math.log(w.times)) > 0.05).slice(0, 6) as w (w.says)}
                <li class="flex gap-2">
                  <b class="w-12 shrink-0 text-right figures {w.times >= 1 ? 'text-vermilion' : 'text-teal'}"
                    >{times(w.times)}</b
                  >{w.says}
                </li>
              {/each}
            </ul>
          {/if}
          <Snap {job} part={s.id} />
        </div>
      {/if}
    </li>
  {/each}
</ol>
{#if !all && shown.length < job.suspects.length}
  <button class="btn w-full" onclick={() => (all = true)}>All {job.suspects.length} suspects</button>
{/if}
