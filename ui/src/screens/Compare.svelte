<script lang="ts">
  // Two holds on one chart from a common start, and the difference as a sentence
  // with its odds.
  import { createQuery } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';
  import { navigate, p, route } from '../lib/routes';
  import { day, figure, range, ringInk, ringWords, timeOfDay } from '../lib/show';
  import KeyButton from '../parts/KeyButton.svelte';
  import Pair from '../parts/Pair.svelte';
  import Ring from '../parts/Ring.svelte';

  const params = $derived(route.params as { first?: string; second?: string });
  const query = createQuery(() => ({
    queryKey: ['compare', params.first, params.second],
    queryFn: () => get('/api/compare', { query: { first: params.first ?? '', second: params.second ?? '' } }),
    enabled: !!params.first && !!params.second,
    retry: false,
  }));
  const c = $derived(query.data);
  const unit = $derived(c?.comparison.by_flow ? 'cm³/min' : 'kPa/min');

  function swap(): void {
    void navigate('/compare/:first/:second', {
      params: { first: params.second ?? '', second: params.first ?? '' },
    });
  }
</script>

<div class="mx-auto flex max-w-5xl flex-col gap-4 px-4 py-5">
  {#if c}
    <div class="flex flex-wrap items-start gap-4">
      <div class="min-w-[min(14rem,100%)] flex-1">
        <h1>Two holds compared</h1>
        <p
          class="mt-2 text-2xl leading-snug font-bold"
          role="status"
          data-second={c.comparison.surely_different
            ? c.comparison.difference.value > 0
              ? 'more'
              : 'less'
            : 'same'}
        >
          {c.comparison.sentence}
        </p>
      </div>
      <KeyButton key="x" says="The other way about" act={swap}>Swap</KeyButton>
    </div>
    {#each c.comparison.cautions as w (w)}<p class="text-vermilion">{w}</p>{/each}
    <Pair first={c.first} second={c.second} />
    <div class="grid gap-x-8 border-t border-ink sm:grid-cols-2">
      {#each [c.first, c.second] as h, i (h.id)}
        {@const rate = c.comparison.by_flow ? h.report?.flow_cm3_per_min : h.report?.rate_kpa_per_min}
        <section class="border-b border-rule py-3">
          <h2 class="flex items-center gap-3">
            <svg width="34" height="12" aria-hidden="true"
              ><line
                x1="0"
                x2="34"
                y1="6"
                y2="6"
                stroke={i === 0 ? 'var(--ink)' : 'var(--brass)'}
                stroke-width="3"
                stroke-dasharray={i === 0 ? undefined : '7 4'}
              /></svg
            >
            {i === 0 ? 'First' : 'Second'}{h.under_text ? `: ${h.under_text}` : ''}
          </h2>
          <p class="small">{h.machine}, {h.purpose}, {day(h.started_at)} {timeOfDay(h.started_at)}</p>
          <p class="mt-1 flex items-center gap-2">
            <Ring kind={h.ring} size={26} /><b class={ringInk[h.ring]}>{ringWords[h.ring]}</b>
          </p>
          {#if rate}
            <p class="text-2xl font-bold figures">
              {figure(Math.max(0, rate.value))} <span class="font-sans text-base font-normal">{unit}</span>
            </p>
            <p class="small figures">{range({ ...rate, low: Math.max(0, rate.low) })}, 95 in 100</p>
          {/if}
          <p class="mt-1">
            <a
              class="inline-flex min-h-11 items-center underline"
              href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: 'call' } })}>Its sheet</a
            >
          </p>
        </section>
      {/each}
    </div>
  {:else if query.error}
    <p class="py-8 text-vermilion" role="alert">{query.error.message}</p>
  {:else}
    <p class="py-8 text-mute">Comparing…</p>
  {/if}
</div>
