<script lang="ts">
  // How a step is done, choice by choice: how far, on which gauge, with which pump,
  // and what may be lost.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Gauge, type Job, type Plan, type PlanChoice } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';
  import { queries } from '../lib/query';
  import { figure } from '../lib/show';
  import Choice from './Choice.svelte';
  import GaugeForm from './GaugeForm.svelte';

  let { job, plan, describing = $bindable(false) }: { job: Job; plan: Plan; describing?: boolean } = $props();
  let typed = $state('');
  let reason = $state('');
  let own = $state(false); // a target of one's own is being typed
  let ownAllowance = $state('');
  let allowing = $state(false);
  const ask = new Ask();
  const kit = createQuery(() => ({ queryKey: ['kit'], queryFn: () => get('/api/kit') }));

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
    ...(job.warms
      ? [
          {
            id: 'house',
            title: '1 mL of coolant an hour',
            why: 'The house allowance: turned into a fall once the strokes show the trapped air; the needle still for 5 minutes until then.',
          },
        ]
      : []),
    ...plan.losses,
    ...job.hold_schools.map((s) => ({
      id: s.id,
      title: s.title,
      why: s.why || `A school of hold: ${s.source}.`,
    })),
    {
      id: 'typed',
      title: plan.wanted.from === 'typed' && plan.wanted.text ? plan.wanted.text : 'another loss',
      why: 'Such as 2 psi in 5 min, from the manual.',
    },
  ]);
  export async function set(change: Partial<PlanChoice>): Promise<boolean> {
    const from = plan.wanted.from;
    const now: Partial<PlanChoice> = {
      step: plan.step,
      school: plan.target.school,
      gauge: plan.gauge.id,
      far: plan.far?.id ?? '',
      pump: plan.pump.id,
      ring: plan.gauge.read,
      allowance: from,
      allowance_text: from === 'typed' ? ownAllowance || plan.wanted.text : '',
    };
    if (now.school === 'typed')
      Object.assign(now, { typed: typed || plan.typed, reason: reason || plan.reason });
    const j = await ask.sheet('/api/jobs/{id}/plan', { ...now, ...change }, job.id);
    if (j) keepJob(j);
    return j !== undefined;
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

{#each plan.elsewhere as e (e.name)}
  <p class="border-l-4 border-brass pl-2 font-bold" data-elsewhere={e.machine}>
    {e.name} is under pressure on {e.machine} now.
  </p>
{/each}

<div class="border-t border-rule">
  <Choice
    label={plan.draws ? 'Draw to' : 'Pump to'}
    options={[
      ...plan.schools,
      {
        id: 'typed',
        title: 'another pressure',
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
        >Pressure <input id="typed" class="field figures" bind:value={typed} placeholder="14 psi" /></label
      >
      <label class="grow"
        >Reason, where it is over the limit <input class="field" bind:value={reason} maxlength="300" /></label
      >
      <button class="btn" disabled={!typed.trim()}>Use this pressure</button>
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
        why: 'One gauge shows the loss. A second gauge at the other end shows a restriction.',
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
      <button class="btn" disabled={!ownAllowance.trim()}>Use this loss</button>
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
{#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
