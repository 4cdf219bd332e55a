<script lang="ts">
  // The mark decoded, the target under a named school, the gauge and whether it fits.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Gauge, type Job, type PlanChoice, type Stage } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob, onward } from '../lib/job';
  import { queries } from '../lib/query';
  import { figure } from '../lib/show';
  import Ahead from '../parts/Ahead.svelte';
  import Choice from '../parts/Choice.svelte';
  import Decoded from '../parts/Decoded.svelte';
  import GaugeForm from '../parts/GaugeForm.svelte';
  import Main from '../parts/Main.svelte';
  import MarkStrip from '../parts/MarkStrip.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const plan = $derived(job.plan);
  const open = $derived(job.state === 'open');
  const planned = $derived(stage.done);
  let text = $state('');
  let remark = $state(false); // the mark is being typed anew
  let describing = $state(false);
  let typed = $state('');
  let reason = $state('');
  let own = $state(false); // a target of one's own is being typed
  let ownAllowance = $state('');
  let allowing = $state(false);
  const ask = new Ask();
  const kit = createQuery(() => ({ queryKey: ['kit'], queryFn: () => get('/api/kit') }));
  const decoded = createQuery(() => ({
    queryKey: ['mark', text.trim()],
    queryFn: () => get('/api/marks', { query: { text: text.trim(), circuit: job.circuit_id } }),
    enabled: text.trim() !== '',
    retry: false,
  }));

  const gauges = $derived(
    (kit.data?.gauges ?? []).flatMap((g) =>
      g.rings.map((r, i) => ({
        id: `${g.id}/${i}`,
        title: `${g.name}${g.rings.length > 1 ? `, ${r.unit} ring` : ''}`,
        why: `${r.from} to ${r.to} ${r.unit}, ${g.kind === 'needle' ? 'division' : 'last digit'} ${r.division}${g.class ? `, class ${g.class}` : ''}`,
      })),
    ),
  );
  const allowances = $derived([
    {
      id: 'house',
      title: '1 mL of coolant an hour',
      why: 'The house allowance: turned into a fall once the strokes have told the air; the needle still for 5 minutes until then.',
    },
    ...(plan?.hold_schools ?? []).map((s) => ({
      id: s.id,
      title: s.title,
      why: `A school of hold: ${s.source}.`,
    })),
    { id: 'typed', title: 'one of your own', why: 'Such as 2 psi in 5 min, from the manual.' },
  ]);
  const unit = $derived(plan?.gauge.rings[plan.gauge.read]);

  async function setMark(reading = 0, mark = text): Promise<void> {
    const j = await ask.send<Job>('/api/jobs/{id}/mark', { text: mark, reading }, job.id);
    if (j) {
      keepJob(j);
      remark = false;
      text = '';
    }
  }

  async function set(change: Partial<PlanChoice>): Promise<boolean> {
    if (!plan) return false;
    const from = plan.wanted.from;
    const now: Partial<PlanChoice> = {
      school: plan.target.school,
      gauge: plan.gauge.id,
      far: plan.far?.id ?? '',
      pump: plan.pump.id,
      ring: plan.gauge.read,
      allowance: from,
      allowance_text: from === 'typed' ? ownAllowance || plan.wanted.text : '',
    };
    if (now.school === 'typed')
      Object.assign(now, { typed: typed || `${plan.target.pa / 1000} kPa`, reason });
    const j = await ask.send<Job>('/api/jobs/{id}/plan', { ...now, ...change }, job.id);
    if (j) keepJob(j);
    return j !== undefined;
  }

  async function accept(): Promise<void> {
    if (planned || (await set({}))) onward(job, stage.id);
  }

  async function setOwn(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    if (await set({ school: 'typed', typed, reason })) own = false;
  }

  async function setAllowance(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    if (await set({ allowance: 'typed', allowance_text: ownAllowance })) allowing = false;
  }
</script>

{#if !plan || remark}
  <form
    class="flex flex-col gap-3"
    autocomplete="off"
    onsubmit={(e) => {
      e.preventDefault();
      void setMark();
    }}
  >
    <label>
      <span>The mark on the cap, as it stands there</span>
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
      {#if plan}<button type="button" class="btn" onclick={() => (remark = false)}>Leave it</button>{/if}
    </div>
  </form>
{:else}
  <div class="flex flex-wrap items-start gap-x-6 gap-y-2">
    <p class="grow text-5xl leading-none font-bold figures">{plan.mark.text}</p>
    {#if open}<button class="btn" onclick={() => (remark = true)}>Other mark</button>{/if}
  </div>
  <div class="min-w-0">
    <Decoded
      mark={plan.mark}
      chosen={plan.chosen}
      choose={open ? (i) => void setMark(i, plan.mark.text) : undefined}
    />
  </div>
  <p class="text-xl font-bold">{plan.target.says}</p>
  {#if unit}<MarkStrip {plan} unit={unit.unit} unitPa={plan.fit.top_pa / unit.to} />{/if}
  <Ahead {job} />
  <ul class="text-sm {plan.fit.fits ? '' : 'text-vermilion'}">
    {#each plan.fit.says as s (s)}<li>{s}</li>{/each}
  </ul>
  {#if open}
    <div class="flex flex-wrap items-center gap-4">
      <Main says="Take this plan and go on" act={() => void accept()} disabled={ask.busy}>
        Pump to {plan.target_shown.text}
        {plan.target_shown.unit}
      </Main>
      <button class="btn" onclick={() => (describing = !describing)} aria-expanded={describing}>
        Describe another gauge
      </button>
    </div>
    <div class="border-t border-rule">
      <Choice
        label="Pump to"
        options={[
          ...plan.schools,
          {
            id: 'typed',
            title: 'a pressure of your own',
            why: 'Refused above the weakest limit, unless a reason is typed; the reason is printed on the sheet.',
          },
        ]}
        value={plan.target.school}
        choose={(v) => {
          own = v === 'typed';
          if (!own) void set({ school: v });
        }}
      />
      {#if own}
        <form class="flex flex-wrap items-end gap-3 bg-page p-3" onsubmit={setOwn} autocomplete="off">
          <label
            >Pressure <input
              id="typed"
              class="field figures"
              bind:value={typed}
              placeholder="14 psi"
            /></label
          >
          <label class="grow"
            >Reason, where it is over the limit <input
              class="field"
              bind:value={reason}
              maxlength="300"
            /></label
          >
          <button class="btn" disabled={!typed.trim()}>Take it</button>
        </form>
      {/if}
      <Choice
        label="Read on"
        options={gauges}
        value={`${plan.gauge.id}/${plan.gauge.read}`}
        choose={(v) =>
          void set({ gauge: v.slice(0, v.lastIndexOf('/')), ring: Number(v.slice(v.lastIndexOf('/') + 1)) })}
      />
      <Choice
        label="Pump with"
        options={(kit.data?.pumps ?? []).map((x) => ({
          id: x.id,
          title: x.name,
          why: `${figure(x.stroke_m3 * 1e6)} cm³ a stroke${x.from ? `, ${x.from}` : ''}`,
        }))}
        value={plan.pump.id}
        choose={(v) => void set({ pump: v })}
      />
      <Choice
        label="Far gauge"
        options={[
          {
            id: 'none',
            title: 'no second gauge',
            why: 'One gauge tells the loss; a second, at the other end, tells a restriction.',
          },
          ...gauges.filter((g) => !g.id.startsWith(plan.gauge.id + '/') && g.id.endsWith('/0')),
        ]}
        value={plan.far ? `${plan.far.id}/0` : 'none'}
        choose={(v) => void set({ far: v === 'none' ? '' : v.slice(0, v.lastIndexOf('/')) })}
      />
      <Choice
        label="May lose"
        options={allowances}
        value={plan.wanted.from}
        choose={(v) => {
          allowing = v === 'typed';
          if (!allowing) void set({ allowance: v });
        }}
      />
      {#if allowing}
        <form class="flex flex-wrap items-end gap-3 bg-page p-3" onsubmit={setAllowance} autocomplete="off">
          <label class="grow"
            >May lose <input
              class="field"
              bind:value={ownAllowance}
              placeholder="2 psi in 5 min"
              maxlength="60"
            /></label
          >
          <button class="btn" disabled={!ownAllowance.trim()}>Take it</button>
        </form>
      {/if}
    </div>
    {#if describing}
      <GaugeForm
        done={(g: Gauge) => {
          describing = false;
          void queries.invalidateQueries({ queryKey: ['kit'] });
          void set({ gauge: g.id, ring: g.read });
        }}
      />
    {/if}
  {/if}
{/if}
{#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
