<script lang="ts">
  // The gauge as a finger: done is pressed once, undone once; between, the slopes before and after with
  // the odds as they build.
  import type { Hold, HuntAct, Job } from '../lib/api/client';
  import { event, lastAct } from '../lib/job';
  import KeyButton from './KeyButton.svelte';

  let { job, hold, act }: { job: Job; hold: Hold; act: HuntAct } = $props();
  const kind = $derived(`act:${act.id}`);
  const told = $derived(hold.report?.acts?.findLast((a) => a.event === kind));
  // On while nothing after it says that it was undone.
  const on = $derived(lastAct(hold) === kind);
  const wait = $derived(hold.report?.act_s ?? null);
  const width = (x: number) =>
    `${Math.min(100, (100 * Math.max(0, x)) / Math.max(1e-9, told?.before_kpa_per_min.value ?? 1))}%`;
</script>

<div
  class="mt-2 border-y border-rule py-2"
  data-act={on ? 'on' : 'off'}
  data-verdict={told?.verdict ?? 'none'}
  data-of={job.id}
>
  <div class="flex flex-wrap items-center gap-3">
    <KeyButton
      key="w"
      says={on ? 'It is undone' : 'It is done: watch the gauge'}
      where="Hunt"
      class="min-h-14 btn-main"
      pressed={on}
      act={() => event(hold.id, on ? 'act over' : kind)}>{on ? 'Undone' : 'Done: watch'}</KeyButton
    >
    <p class="min-w-0 grow basis-40">
      {#if told}{told.says}{:else if wait !== null}Then watch the gauge about {Math.max(
          5,
          Math.round(wait / 5) * 5,
        )} s.{:else}Then watch the gauge.{/if}
    </p>
  </div>
  {#if told}
    <dl class="mt-2 grid grid-cols-[4rem_1fr] items-center gap-x-2 gap-y-1 small">
      <dt>before</dt>
      <dd><span class="block h-3 bg-ink" style="width: {width(told.before_kpa_per_min.value)}"></span></dd>
      <dt>after</dt>
      <dd>
        <span class="block h-3 min-w-0.5 bg-brass" style="width: {width(told.after_kpa_per_min.value)}"
        ></span>
      </dd>
      <dt>slower</dt>
      <dd class="figures">{Math.round(100 * told.odds_slower)} in 100</dd>
    </dl>
  {/if}
</div>
