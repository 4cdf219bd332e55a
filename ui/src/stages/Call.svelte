<script lang="ts">
  // The ring drawn large, the word, the reason, three figures, what was not tested,
  // and the next move. The rest on demand.
  import { createQuery } from '@tanstack/svelte-query';
  import { untrack } from 'svelte';
  import { get, type Interval, type Job, type Stage } from '../lib/api/client';
  import { go, testOf } from '../lib/job';
  import { p } from '../lib/routes';
  import { clock, figure, range, ringInk, shapeWords } from '../lib/show';
  import DripOrHiss from '../parts/DripOrHiss.svelte';
  import Fork from '../parts/Fork.svelte';
  import Further from '../parts/Further.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Residuals from '../parts/Residuals.svelte';
  import RigSeen from '../parts/RigSeen.svelte';
  import Ring from '../parts/Ring.svelte';
  import SeenAt from '../parts/SeenAt.svelte';
  import Tries from '../parts/Tries.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const hold = $derived(testOf(job));
  const call = $derived(hold?.calls.at(-1));
  // When it was first called so; later calls of the same kind only confirm it.
  const since = $derived.by(() => {
    const list = hold?.calls ?? [];
    let i = list.length - 1;
    while (i > 0 && list[i - 1]!.call === list[i]!.call) i--;
    return list[i];
  });
  const report = $derived(hold?.report ?? null);
  // A leak that was seen outranks the gauge.
  const seen = $derived(job.call.seen.length > 0);
  // What leaked was the rig, and accepted: the part is not tested past it.
  const past = $derived(!seen && job.call.past.length > 0);
  const ring = $derived(seen ? 'cut' : past ? 'dotted' : (call?.ring ?? hold?.ring ?? 'dotted'));
  const words = {
    tight: 'Tight',
    leaking: 'Leaking',
    'not-yet': 'Not yet',
    'never-reached': 'Never reached',
  } as const;
  const word = $derived(
    seen ? words.leaking : past ? words['not-yet'] : words[call?.call ?? report?.call ?? 'not-yet'],
  );
  // Sentences by what they say: reasons and sentences go in one order.
  const said = $derived(
    (report?.why ?? []).map((text, i) => ({ text, code: report?.reasons[i]?.code ?? '' })),
  );
  const reason = $derived(said[0]?.text ?? '');
  // After a call a hold that runs goes on measuring: figures are of now, the reason of then.
  const going = $derived(hold?.state === 'holding' && call !== undefined && call.call !== 'not-yet');
  const notTested = $derived(said.filter((w) => w.code === 'not-tested').map((w) => w.text));
  const proofless = $derived(said.find((w) => w.code === 'rig-unproven')?.text);
  // What nobody should overlook: what holds the call back, and what it does not show.
  const plainly = [
    'could-hide',
    'shut-short',
    'fell-much',
    'still-settles',
    'held-too-short',
    'allowance-unsure',
    'waits-to-be-sure',
  ];
  const beside = $derived(said.slice(1).filter((w) => plainly.includes(w.code)));
  const rest = $derived(
    said
      .slice(1)
      .filter((w) => w.code !== 'not-tested' && w.code !== 'rig-unproven' && !plainly.includes(w.code))
      .map((w) => w.text),
  );
  // Warm and not measured: no fall is judged, because its figures would be those of the warmth.
  const unread = $derived(said.some((w) => w.code === 'temperature-unread'));
  const figures = $derived.by(() => {
    const out: { label: string; unit: string; i: Interval }[] = [];
    if (unread) return out;
    if (report?.rate_kpa_per_min) out.push({ label: 'Loss', unit: 'kPa/min', i: report.rate_kpa_per_min });
    const [hiss, drip] = [report?.loss_ml_per_h, report?.weep_ml_per_h];
    if (hiss && drip && job.escape === '')
      out.push({
        label: 'As hot coolant, at most',
        unit: 'mL an hour',
        i: { value: drip.value, low: hiss.low, high: drip.high },
      });
    else if (drip && job.escape === 'drip')
      out.push({ label: 'As hot coolant, dripping', unit: 'mL an hour', i: drip });
    else if (hiss) out.push({ label: 'As hot coolant, hissing', unit: 'mL an hour', i: hiss });
    else if (report?.flow_cm3_per_min)
      out.push({ label: 'As air', unit: 'cm³/min', i: report.flow_cm3_per_min });
    if (report?.hole_um) out.push({ label: 'Equivalent hole', unit: 'µm', i: report.hole_um });
    return out;
  });
  const leaking = $derived(ring === 'cut');
  // The other ways the same fall may be read.
  const sizes = $derived.by(() => {
    const out: { label: string; text: string }[] = [];
    const row = (label: string, i: Interval | null, unit: string) => {
      if (i)
        out.push({
          label,
          text: `${figure(Math.max(0, i.value))} ${unit} (${range({ ...i, low: Math.max(0, i.low) })})`,
        });
    };
    if (!report || unread) return out;
    row('Air leaving', report.flow_cm3_per_min, 'cm³/min');
    row('Above the liquid line: coolant, hot', report.loss_ml_per_h, 'mL an hour');
    row('Above the liquid line: coolant, cold', report.loss_cold_ml_per_h, 'mL an hour');
    row('Below the liquid line: coolant, hot', report.weep_ml_per_h, 'mL an hour');
    row('Below the liquid line: coolant, cold, as in this test', report.weep_cold_ml_per_h, 'mL an hour');
    if (report.smallest_seen_kpa_per_min !== null)
      out.push({
        label: 'The smallest leak this hold would have shown',
        text: `${figure(report.smallest_seen_kpa_per_min)} kPa/min${report.smallest_seen_ml_per_h === null ? '' : `, ${figure(report.smallest_seen_ml_per_h)} mL an hour of hot coolant`}`,
      });
    return out;
  });
  // An ended hold is looked at, a running one has its own stage.
  let drawn = $state(untrack(() => testOf(job)?.state === 'ended'));
  let asked = $state(false);
  const why = createQuery(() => ({
    queryKey: ['why', hold?.id, hold?.calls.length],
    queryFn: () => get('/api/holds/{id}/why', { id: hold?.id ?? '' }),
    enabled: asked && hold !== undefined,
  }));
  const share = (x: number) =>
    x > 0.99 ? 'more than 99 in 100' : x < 0.01 ? 'less than 1 in 100' : `${Math.round(x * 100)} in 100`;
  let comparing = $state(false);
  const others = createQuery(() => ({
    queryKey: ['comparable', hold?.id],
    queryFn: () => get('/api/holds/{id}/comparable', { id: hold?.id ?? '' }),
    enabled: comparing && hold !== undefined,
  }));
</script>

{#if !hold || !report}
  {#if seen}
    <div class="flex flex-wrap items-center gap-x-6 gap-y-2" role="status">
      <Ring kind="cut" size={148} />
      <div class="min-w-[min(14rem,100%)] flex-1">
        <p class="text-5xl font-bold {ringInk.cut}">{words.leaking}</p>
        <SeenAt {job} />
      </div>
    </div>
    <Foot>
      <Main says="Bleed down and put right" act={() => go(job, 'put-right')}>Put right</Main>
      <KeyButton key="p" says="To the hold" act={() => go(job, hold ? 'hold' : 'pressurise')} class="min-h-14"
        >Hold it too</KeyButton
      >
    </Foot>
  {:else}
    <p>{stage.text} There is no hold to call yet.</p>
    <Foot>
      <Main says="To the hold" act={() => go(job, hold ? 'hold' : 'pressurise')}
        >{hold ? 'Settle and hold' : 'Pressurise'}</Main
      >
    </Foot>
  {/if}
{:else}
  <div
    class="flex flex-wrap items-center gap-x-6 gap-y-2"
    role="status"
    data-call={call?.call ?? 'none'}
    data-ring={ring}
    data-explains={job.explains !== ''}
  >
    <Ring kind={ring} size={148} />
    <div class="min-w-[min(14rem,100%)] flex-1">
      <p class="text-5xl font-bold {ringInk[ring]}">{word}</p>
      {#if seen}<SeenAt {job} />{/if}
      {#if past}<p class="mt-2 text-lg" data-past>{job.call.sentence}</p>{/if}
      <p class="mt-2 text-lg" data-going={going}>
        {seen || past ? 'The hold: ' : ''}{going ? hold.sentence : reason}
      </p>
      {#each beside as w (w.code)}<p class="mt-1" data-says={w.code}>{w.text}</p>{/each}
      {#if proofless}<p class="mt-1 font-bold text-vermilion">{proofless}</p>{/if}
      {#if call && call.call !== 'not-yet'}<p class="mt-1 small">
          Called {clock((since ?? call).t - (hold.isolated_s ?? 0))} after shutting{hold.simulated
            ? ', on a simulated gauge'
            : ''}.{going ? ` Then: ${reason}` : ''}
        </p>{/if}
      {#if job.explains}<p class="mt-1">{job.explains}</p>{/if}
      {#if report.next}<p class="mt-1 font-bold">{report.next}</p>{/if}
    </div>
  </div>
  {#if figures.length}
    <dl class="grid gap-x-6 border-y border-rule sm:grid-cols-3">
      {#each figures as f (f.label)}
        <div class="py-2">
          <dt class="small">{f.label}</dt>
          <dd class="text-2xl font-bold figures">
            {figure(Math.max(0, f.i.value))} <span class="font-sans text-base font-normal">{f.unit}</span>
          </dd>
          <dd class="small figures">{range({ ...f.i, low: Math.max(0, f.i.low) })}, 95 in 100</dd>
        </div>
      {/each}
    </dl>
    {#if !report.loss_ml_per_h}<p class="small">
        Trapped air not known: count the strokes with a reading after each, and the fall becomes a leak size.
      </p>{/if}
  {/if}
  {#if report.weep_ml_per_h && !unread && job.state === 'open'}<DripOrHiss {job} />{/if}
  <RigSeen {job} />
  <ul>
    {#each notTested as n (n)}<li>{n}</li>{/each}
  </ul>
  <Foot>
    {#if seen && job.state === 'open'}
      <Main says="Bleed down and put right" act={() => go(job, 'put-right')}>Put right</Main>
      <KeyButton key="p" says="Hunt on" act={() => go(job, 'hunt')} class="min-h-14">Hunt on</KeyButton>
    {:else if leaking && job.state === 'open'}
      <Main says="The next check" act={() => go(job, 'hunt')}>{job.hunt.next?.says ?? 'Hunt'}</Main>
      <KeyButton key="p" says="Bleed down and put right" act={() => go(job, 'put-right')} class="min-h-14"
        >Put right</KeyButton
      >
    {:else if hold.state === 'holding' && ring === 'dotted'}
      <Main says="Hold on" act={() => go(job, 'hold')}>Hold on</Main>
    {:else if job.state === 'open'}
      <Main says="Bleed down and put right" act={() => go(job, 'put-right')}>Bleed down</Main>
    {:else}
      <Main says="To the sheet" act={() => go(job, 'write-down')}>The sheet</Main>
    {/if}
    {#if hold.state === 'ended' && job.state === 'open'}
      <KeyButton key="a" says="Hold again" act={() => go(job, 'pressurise')} class="min-h-14"
        >Hold again</KeyButton
      >
    {/if}
  </Foot>
  <Further {job} />
  <Tries {job} {hold} />
  <details class="border-t border-rule pt-2" bind:open={drawn}>
    <summary class="flex min-h-11 items-center">The chart of the hold</summary>
    <Fork {hold} height={220} />
  </details>
  {#if sizes.length}
    <details class="border-t border-rule pt-2">
      <summary class="flex min-h-11 items-center">Leak size in every unit</summary>
      <dl class="grid gap-x-4 gap-y-1 sm:grid-cols-[1fr_auto]">
        {#each sizes as x (x.label)}
          <dt>{x.label}</dt>
          <dd class="mb-1 figures sm:mb-0 sm:text-right">{x.text}</dd>
        {/each}
      </dl>
      {#if report.weep_cold_ml_per_h}<p class="mt-1 small">
          A leak below the liquid line would have dripped this much in the test. If nothing dripped, it is
          above the line.
        </p>{/if}
    </details>
  {/if}
  <details class="border-t border-rule pt-2" bind:open={asked}>
    <summary class="flex min-h-11 items-center">Why, and what would change it</summary>
    <ul class="list-disc pl-6">
      {#each rest as w (w)}<li>{w}</li>{/each}
      <li>
        {share(report.shape_share)} for “{shapeWords[report.shape]}”, {share(report.runner_up_share)} for “{shapeWords[
          report.runner_up
        ]}”.
      </li>
      {#if why.data?.changes}<li>{why.data.changes}</li>{/if}
    </ul>
    {#if why.data?.fit.length}
      <p class="mt-3 small">
        Readings minus the best curve, in standard errors. 95 in 100 should lie within the band.
      </p>
      <Residuals fit={why.data.fit} from={hold.isolated_s ?? 0} />
    {/if}
  </details>
  <details class="border-t border-rule pt-2">
    <summary class="flex min-h-11 items-center">Verdict by each hold school</summary>
    <table class="mt-2 w-full text-left" data-schools>
      <thead
        ><tr class="border-b border-rule small"
          ><th class="font-normal">School</th><th class="font-normal">Says</th><th class="font-normal">Saw</th
          ><th class="font-normal">Allows</th></tr
        ></thead
      >
      <tbody>
        {#each report.schools as s (s.id)}
          <tr class="border-b border-rule">
            <td class="py-1.5 pr-3">{s.title}</td>
            <td class="pr-3">{s.verdict === 'too-short' ? 'not held long enough' : s.verdict}</td>
            <td class="pr-3 figures">{s.verdict === 'too-short' ? '' : s.saw}</td>
            <td class="figures"
              >{s.flow_allowed_cm3_per_min === null
                ? ''
                : `${figure(s.flow_allowed_cm3_per_min)} cm³/min`}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </details>
  <details class="border-t border-rule pt-2" bind:open={comparing}>
    <summary class="flex min-h-11 items-center">Compare with another hold</summary>
    {#if others.data?.length}
      <ul class="divide-y divide-rule">
        {#each others.data as o (o.id)}
          <li>
            <a
              class="flex min-h-11 items-center gap-3 no-underline hover:bg-page"
              href={p('/compare/:first/:second', { params: { first: o.id, second: hold.id } })}
              ><Ring kind={o.ring} size={24} /><span>{o.says}</span></a
            >
          </li>
        {/each}
      </ul>
    {:else if others.data}
      <p class="text-mute">
        There is no other hold of {job.machine} yet: hold again, hot or cold, to compare.
      </p>
    {/if}
  </details>
  {#if hold.calls.length > 1}
    <p class="small">
      Calls on this hold, none rewritten: {hold.calls
        .map((c) => `${words[c.call].toLowerCase()} at ${clock(c.t - (hold.isolated_s ?? 0))}`)
        .join(', ')}.
    </p>
  {/if}
{/if}
