<script lang="ts">
  // What is under pressure now, what wants hands next, and one big way to start.
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { go } from '../lib/job';
  import { later } from '../lib/later.svelte';
  import { me } from '../lib/me.svelte';
  import { askBench, live } from '../lib/live.svelte';
  import { p } from '../lib/routes';
  import { capital, ringWords, timeThen } from '../lib/show';
  import { queries } from '../lib/query';
  import Chosen from '../parts/Chosen.svelte';
  import Fork from '../parts/Fork.svelte';
  import Ring from '../parts/Ring.svelte';
  import Since from '../parts/Since.svelte';

  let machine = $state('');
  let complaint = $state('');
  let figure = $state(''); // a mark, or how many: what it is follows from the circuit
  let picked = $state(''); // the circuit, where it was chosen
  let fitted = $state<Record<string, boolean>>({});
  const ask = new Ask();

  const bench = createQuery(() => ({
    queryKey: ['bench'],
    queryFn: askBench,
    refetchInterval: 20_000,
  }));
  const machines = createQuery(() => ({
    queryKey: ['machines', machine],
    queryFn: () => get('/api/machines', { query: { q: machine } }),
  }));
  const circuits = $derived(bench.data?.circuits ?? []);
  const asked = $derived({ bench: machine.trim(), complaint: complaint.trim(), figure: figure.trim() });
  const meantBy = (query: typeof asked) => ({
    queryKey: ['meant', query],
    queryFn: () => get('/api/meant', { query }),
  });
  const meant = createQuery(() => ({ ...meantBy(asked), placeholderData: keepPreviousData }));
  const circuit = $derived(circuits.find((c) => c.id === (picked || meant.data?.id)));
  const decoded = createQuery(() => ({
    queryKey: ['mark', asked.figure, circuit?.id],
    queryFn: () => get('/api/marks', { query: { text: asked.figure, circuit: circuit?.id ?? '' } }),
    enabled: asked.figure !== '' && (circuit?.mark ?? '') !== '',
    retry: false,
  }));

  const usual = 5; // as many things as are proposed, where none were named
  const named = $derived(meant.data?.count || usual);

  async function start(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    // Typed faster than the answers came: which circuit is meant is not known before.
    if (!bench.data) await bench.refetch();
    const said = await queries.fetchQuery(meantBy(asked)).catch(() => undefined);
    const id = picked || said?.id;
    const circuit = circuits.find((c) => c.id === id);
    const things = circuit?.things ?? '';
    const n = things ? Number(figure.trim() || said?.count || usual) : 0;
    if (things && !(Number.isInteger(n) && n > 0 && n <= 60)) {
      ask.says = `How many ${things}s is a whole number from 1 to 60, such as ${usual}.`;
      document.getElementById('mark')?.focus();
      return;
    }
    const sent = {
      machine,
      complaint,
      mark: things ? '' : figure,
      circuit: circuit?.id ?? '',
      options: Object.fromEntries((circuit?.options ?? []).map((o) => [o.id, fitted[o.id] ?? o.fitted])),
      ...(things ? { things: Array.from({ length: n }, (_, i) => `${capital(things)} ${i + 1}`) } : {}),
    };
    const job = await ask.sheet('/api/jobs', sent);
    if (!job) {
      // What was refused may have been put right before the answer came.
      if (machine !== sent.machine || complaint !== sent.complaint || (sent.mark && figure !== sent.mark)) {
        ask.says = '';
        return;
      }
      document.getElementById(ask.field || 'machine')?.focus();
      return;
    }
    go(job, job.current);
  }
</script>

<div
  data-view="bench"
  data-ready={bench.data !== undefined}
  class="mx-auto grid max-w-7xl grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-5 px-4 py-5 lg:grid-cols-[minmax(0,1fr)_340px]"
>
  {#if bench.data?.wrong_pins}
    {@const w = bench.data.wrong_pins}
    <p
      class="flex flex-wrap items-center gap-3 border-y-2 border-vermilion py-1 lg:col-span-2"
      role="alert"
      data-wrong-pins={w.n}
    >
      <strong class="grow text-vermilion"
        >{w.n} wrong PINs from {w.from === 1 ? 'one device' : `${w.from} devices`} since {timeThen(
          w.since,
        )}.</strong
      >
      <a class="btn" href={p('/devices')}>Devices</a>
    </p>
  {/if}
  <form
    onsubmit={start}
    oninput={() => (ask.says = '')}
    class="rounded border-2 border-ink bg-page p-4 lg:col-span-2"
    aria-label="Start a test"
    data-circuit={circuit?.id ?? ''}
    autocomplete="off"
  >
    <div class="grid items-end gap-3 md:grid-cols-[2fr_2fr_1fr_auto]">
      <label>
        <span class="font-bold">What is on the bench?</span>
        <input
          id="machine"
          class="mt-1 field text-lg"
          bind:value={machine}
          list="machines"
          placeholder="bin carrier 4"
          maxlength="80"
        />
      </label>
      <label>
        <span>Complaint</span>
        <input
          id="complaint"
          class="mt-1 field text-lg"
          bind:value={complaint}
          list="complaints"
          placeholder="routine, if none"
          maxlength="400"
        />
      </label>
      <!-- One field whatever the circuit: who types fast is in it before the circuit is known. -->
      <label>
        <span
          >{circuit?.things
            ? `How many ${circuit.things}s`
            : circuit?.mark_label || 'Mark, if it has one'}</span
        >
        <input
          id="mark"
          class="mt-1 field text-lg figures"
          bind:value={figure}
          placeholder={circuit?.things ? `${named}, if not said` : circuit && !circuit.mark ? 'none' : '1.1'}
          maxlength="40"
        />
      </label>
      <button class="btn min-h-12 btn-main px-6 text-lg" disabled={ask.busy}
        >Start the test <span class="key opacity-80">Enter</span></button
      >
    </div>
    <datalist id="machines"
      >{#each machines.data ?? [] as m (m)}<option value={m}></option>{/each}</datalist
    >
    {#if circuits.length}
      <div class="mt-2">
        {#if later.parts}
          <later.parts.Choice
            label="Test"
            options={circuits.map((c) => ({ id: c.id, title: c.title, why: c.summary }))}
            value={circuit?.id ?? ''}
            choose={(v) => {
              picked = v;
              fitted = {};
            }}
          />
        {:else}
          <Chosen label="Test" now={circuit?.title ?? ''} />
        {/if}
      </div>
    {/if}
    {#if meant.data?.also.length && !picked}
      <p class="mt-2 flex flex-wrap items-center gap-2" data-also={meant.data.also.length}>
        <span class="text-mute">It may also be</span>
        {#each meant.data.also as c (c.id)}
          <button type="button" class="btn" onclick={() => (picked = c.id)}>{c.title}</button>
        {/each}
      </p>
    {/if}
    {#if circuit?.options.length}
      <fieldset class="mt-2 flex flex-wrap gap-2">
        <legend class="float-left mr-2 content-center text-mute">Fitted</legend>
        {#each circuit.options as o (o.id)}
          {@const on = fitted[o.id] ?? o.fitted}
          <button
            type="button"
            class="btn {on ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
            aria-pressed={on}
            onclick={() => (fitted[o.id] = !on)}>{o.title}</button
          >
        {/each}
      </fieldset>
    {/if}
    <datalist id="complaints"
      >{#each circuit?.complaints ?? [] as c (c)}<option value={c}></option>{/each}</datalist
    >
    <div class="mt-2 flex flex-wrap items-start justify-between gap-x-6 gap-y-2 text-sm">
      <div class="min-h-6 min-w-0 grow basis-full sm:basis-0" aria-live="polite">
        {#if ask.says}
          <p class="font-bold text-vermilion" role="alert">{ask.says}</p>
        {:else if asked.figure && decoded.error}
          <p class="text-vermilion" data-mark="refused">{decoded.error.message}</p>
        {:else if asked.figure && decoded.data}
          <div data-decoded={asked.figure}>
            {#if later.parts}<later.parts.Decoded mark={decoded.data} chosen={0} />{/if}
          </div>
        {:else if circuit && !circuit.mark && !circuit.things}
          <p class="text-mute">No mark limits it: its steps say how far.</p>
        {:else if circuit?.mark}
          <p class="text-mute">
            As printed there: 1.1, 16, 110 kPa, 13-15. You can also type it later, with the cap in your hand.
          </p>
        {/if}
      </div>
      <label class="flex min-w-0 flex-wrap items-center gap-2">
        <span class="text-mute">Signed</span>
        <input
          class="field w-36 py-0"
          value={me.by}
          oninput={(e) => (me.by = e.currentTarget.value)}
          placeholder="your first name"
          maxlength="60"
        />
      </label>
    </div>
  </form>

  <section class="min-w-0" aria-labelledby="under">
    <h1 id="under" class="border-b border-ink pb-1">Under pressure now</h1>
    {#each live.running as h (h.id)}
      <a
        href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: h.stage } })}
        data-left={h.laid_by}
        class="block border-b border-rule py-3 no-underline hover:bg-page"
      >
        <div class="flex flex-wrap items-center gap-x-4 gap-y-1">
          <Ring kind={h.ring} size={44} />
          <div class="min-w-[min(11rem,100%)] grow">
            <p class="text-lg leading-tight font-bold">{h.machine}</p>
            <p class="small">
              {h.purpose === 'rig proof' ? 'rig proof' : h.purpose}{h.simulated
                ? ', simulated gauge'
                : ''}{h.laid_by ? ', left running' : ''} ·
              <Since hold={h} />
            </p>
          </div>
          <p class="text-right">
            <span class="text-4xl leading-none font-bold figures">{h.value?.text ?? '–'}</span>
            <span class="text-lg">{h.unit}</span>
            {#if h.value}<span class="block small figures">{h.value.other}</span>{/if}
          </p>
        </div>
        {#if h.state === 'holding'}
          <div class="mt-1"><Fork hold={h} height={84} small /></div>
        {/if}
        <p class="mt-1"><b class="sr-only">{ringWords[h.ring]}.</b> {h.sentence}</p>
      </a>
    {:else}
      <p class="text-mute py-6">
        Nothing is under pressure. Type above what is on the bench. To try it out, choose a simulated gauge.
      </p>
    {/each}
  </section>

  <section aria-labelledby="next">
    <h2 id="next" class="border-b border-ink pb-1">To do next</h2>
    <ul>
      {#snippet ofKit(late: boolean)}
        {#each (bench.data?.kit ?? []).filter((d) => d.overdue === late) as d (d.kit_id + d.text)}
          <li>
            <a
              href={p('/kit/:piece', { params: { piece: d.kit_id } })}
              class="block border-b border-rule py-2.5 no-underline hover:bg-page"
              data-kit-due={d.overdue}
            >
              {#if d.day}<span class="float-right small figures {d.overdue ? 'font-bold text-vermilion' : ''}"
                  >{d.day}</span
                >{/if}<b>{d.name}</b><br /><span class={d.overdue && !d.day ? 'text-vermilion' : ''}
                >{d.text}</span
              >
            </a>
          </li>
        {/each}
      {/snippet}
      {#if bench.data?.note.text}
        {@const n = bench.data.note}
        <li>
          <a
            href={p('/handover')}
            class="block border-b border-l-4 border-rule border-l-brass py-2.5 pl-2 no-underline hover:bg-page"
            data-shift-note
            ><b>{n.text}</b><br /><span class="small figures">{n.by}, {timeThen(n.at)}, for this shift</span
            ></a
          >
        </li>
      {/if}
      {@render ofKit(true)}
      {#each bench.data?.next ?? [] as n (n.job_id + (n.due_at ?? ''))}
        <li>
          <a
            href={p('/jobs/:id/:stage', { params: { id: n.job_id, stage: n.stage } })}
            class="block border-b border-rule py-2.5 no-underline hover:bg-page"
          >
            {#if n.due_at}<span
                class="float-right small figures {n.due ? 'font-bold text-vermilion' : ''}"
                data-overdue={n.due}>{n.due_says || timeThen(n.due_at)}</span
              >{/if}<b>{n.machine}</b><br />{n.text}
          </a>
        </li>
      {:else}
        {#if !bench.data?.kit.length}<li class="text-mute py-3">Nothing needs hands now.</li>{/if}
      {/each}
      {@render ofKit(false)}
    </ul>
    {#if bench.data?.demo}
      <p class="mt-4 small">
        Hollowell Orchards is a made-up shop. Its gauges are simulated, and say so wherever they are shown.
      </p>
    {/if}
  </section>
</div>
