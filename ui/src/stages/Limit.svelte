<script lang="ts">
  // The mark decoded, the target under a named school, the gauge and whether it fits.
  // A circuit of several steps has a limit for each.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Job, type Stage } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { onward, planOf } from '../lib/job';
  import Ahead from '../parts/Ahead.svelte';
  import Decoded from '../parts/Decoded.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Matters from '../parts/Matters.svelte';
  import MarkStrip from '../parts/MarkStrip.svelte';
  import PlanChoices from '../parts/PlanChoices.svelte';
  import { figure } from '../lib/show';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const plan = $derived(planOf(job));
  const mark = $derived(job.steps.find((s) => s.plan?.mark)?.plan?.mark ?? null);
  const chosen = $derived(job.steps.find((s) => s.plan?.mark)?.plan?.chosen ?? 0);
  const open = $derived(job.state === 'open');
  const single = $derived(job.steps.length < 2);
  const aiming = $derived(job.steps.filter((s) => s.plan !== null || s.problem));
  let text = $state('');
  let remark = $state(false); // the mark is being typed again
  let describing = $state(false);
  let choices = $state<PlanChoices>();
  const ask = new Ask();
  const decoded = createQuery(() => ({
    queryKey: ['mark', text.trim(), job.circuit_id],
    queryFn: () => get('/api/marks', { query: { text: text.trim(), circuit: job.circuit_id } }),
    enabled: text.trim() !== '',
    retry: false,
  }));
  const unit = $derived(plan?.gauge.rings[plan.gauge.read]);
  const full = $derived(
    plan ? (plan.draws ? plan.fit.bottom_pa / (unit?.from || 1) : plan.fit.top_pa / (unit?.to || 1)) : 1,
  );

  async function setMark(reading = 0, mark = text): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/mark', { text: mark, reading }, job.id);
    if (j) {
      remark = false;
      text = '';
    }
  }

  async function accept(): Promise<void> {
    if (stage.done || (await choices?.set({}))) onward(job, stage.id);
  }
</script>

{#if job.marked && (!mark || remark)}
  <form
    class="flex flex-col gap-3"
    autocomplete="off"
    onsubmit={(e) => {
      e.preventDefault();
      void setMark();
    }}
  >
    <label>
      <span>{job.mark_label}, as printed there</span>
      <!-- svelte-ignore a11y_autofocus -->
      <input
        class="mt-1 field text-3xl figures"
        bind:value={text}
        autofocus
        placeholder="1.1"
        maxlength="40"
      />
    </label>
    {#if text.trim() && decoded.error}
      <p class="text-vermilion" role="alert">{decoded.error.message}</p>
    {:else if text.trim() && decoded.data}
      <Decoded mark={decoded.data} chosen={0} />
    {/if}
    <div class="flex gap-3">
      <button class="btn min-h-14 btn-main px-6 text-lg" disabled={!text.trim() || ask.busy}
        >This is the mark <span class="key opacity-80">Enter</span></button
      >
      {#if mark}<button type="button" class="btn" onclick={() => (remark = false)}>Keep the old mark</button
        >{/if}
    </div>
  </form>
{:else}
  {#if mark}
    {@const stands = mark.text}
    <div class="flex flex-wrap items-start gap-x-6 gap-y-2">
      <p class="grow text-5xl leading-none font-bold figures">{stands}</p>
      {#if open}<button class="btn" onclick={() => (remark = true)}>Other mark</button>{/if}
    </div>
    <div class="min-w-0">
      <Decoded {mark} {chosen} choose={open ? (i) => void setMark(i, stands) : undefined} />
    </div>
  {/if}
  {#if single && plan}
    <p
      class="text-xl font-bold"
      data-target="{plan.target_shown.text} {plan.target_shown.unit}"
      data-over={plan.target.over}
    >
      {plan.target.says}
    </p>
    {#if unit}<MarkStrip {plan} unit={unit.unit} unitPa={full} />{/if}
    <Ahead {job} />
    <ul class="text-sm {plan.fit.fits ? '' : 'text-vermilion'}">
      {#each plan.fit.says as s (s)}<li>{s}</li>{/each}
    </ul>
    {#if open}
      <Foot>
        <Main says="Take this plan and go on" act={() => void accept()}>
          {plan.draws ? 'Draw to' : 'Pump to'}
          {plan.target_shown.text}
          {plan.target_shown.unit}
        </Main>
      </Foot>
      <PlanChoices {job} {plan} bind:this={choices} bind:describing />
      <div>
        <button class="btn" onclick={() => (describing = !describing)} aria-expanded={describing}>
          Describe another gauge
        </button>
      </div>
    {/if}
  {:else if !single}
    <Matters {job} />
    <ul class="divide-y divide-rule border-y border-rule">
      {#each aiming as s (s.id)}
        <li class="py-2">
          <p class="font-bold">{s.title}</p>
          {#if s.plan}
            <p>{s.plan.target.says}</p>
            <p class="small">
              Weakest: the {s.plan.weakest.of}, {figure(s.plan.weakest.pa / 1000)} kPa ({s.plan.weakest
                .source}). Read on {s.plan.gauge.name}.
            </p>
          {:else}
            <p class="text-vermilion">{s.problem}</p>
          {/if}
        </li>
      {:else}
        <li class="py-2 text-mute">Nothing is pumped up in this circuit.</li>
      {/each}
    </ul>
    <p class="small">Each step's pressure, gauge and allowance are chosen at the step itself.</p>
    <Foot><Main says="On to the next stage" act={() => onward(job, stage.id)}>On</Main></Foot>
  {/if}
{/if}
{#if single}<Matters {job} />{/if}
{#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
