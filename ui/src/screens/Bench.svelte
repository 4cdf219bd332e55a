<script lang="ts">
  // What is under pressure now, what wants hands next, and one big way to start.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { go, keepJob, stageOf } from '../lib/job';
  import { me } from '../lib/me.svelte';
  import { live } from '../lib/live.svelte';
  import { p } from '../lib/routes';
  import { ringWords } from '../lib/show';
  import Decoded from '../parts/Decoded.svelte';
  import Fork from '../parts/Fork.svelte';
  import Ring from '../parts/Ring.svelte';
  import Since from '../parts/Since.svelte';

  let machine = $state('');
  let complaint = $state('');
  let mark = $state('');
  const ask = new Ask();

  const bench = createQuery(() => ({ queryKey: ['bench'], queryFn: () => get('/api/bench') }));
  const machines = createQuery(() => ({
    queryKey: ['machines', machine],
    queryFn: () => get('/api/machines', { query: { q: machine } }),
  }));
  const decoded = createQuery(() => ({
    queryKey: ['mark', mark.trim()],
    queryFn: () => get('/api/marks', { query: { text: mark.trim() } }),
    enabled: mark.trim() !== '',
    retry: false,
  }));

  async function start(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const sent = { machine, complaint, mark };
    const job = await ask.send<Job>('/api/jobs', sent);
    if (!job) {
      // What was refused may have been put right before the answer came.
      if (machine !== sent.machine || complaint !== sent.complaint || mark !== sent.mark) {
        ask.says = '';
        return;
      }
      document.getElementById(ask.field || 'machine')?.focus();
      return;
    }
    keepJob(job);
    go(job, job.current);
  }
</script>

<div
  class="mx-auto grid max-w-7xl grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-5 px-4 py-5 lg:grid-cols-[minmax(0,1fr)_340px]"
>
  <form
    onsubmit={start}
    oninput={() => (ask.says = '')}
    class="rounded border-2 border-ink bg-page p-4 lg:col-span-2"
    aria-label="Start a test"
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
      <label>
        <span>Mark on the cap</span>
        <input
          id="mark"
          class="mt-1 field text-lg figures"
          bind:value={mark}
          placeholder="1.1"
          maxlength="40"
        />
      </label>
      <button class="btn min-h-12 btn-main px-6 text-lg" disabled={ask.busy}
        >Start cooling test <span class="key opacity-80">Enter</span></button
      >
    </div>
    <datalist id="machines"
      >{#each machines.data ?? [] as m (m)}<option value={m}></option>{/each}</datalist
    >
    <datalist id="complaints"
      >{#each bench.data?.complaints ?? [] as c (c)}<option value={c}></option>{/each}</datalist
    >
    <div class="mt-2 flex flex-wrap items-start justify-between gap-x-6 gap-y-2 text-sm">
      <div class="min-h-6 min-w-0 grow basis-full sm:basis-0" aria-live="polite">
        {#if ask.says}
          <p class="font-bold text-vermilion" role="alert">{ask.says}</p>
        {:else if mark.trim() && decoded.error}
          <p class="text-vermilion">{decoded.error.message}</p>
        {:else if mark.trim() && decoded.data}
          <Decoded mark={decoded.data} chosen={0} />
        {:else}
          <p class="text-mute">
            The mark as it stands there: 1.1, 16, 110 kPa, 13-15. It can wait until the cap is in your hand.
          </p>
        {/if}
      </div>
      <label class="flex shrink-0 items-center gap-2">
        <span class="text-mute">Signed</span>
        <input
          class="field min-h-9 w-36 py-0"
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
        href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: stageOf(h) } })}
        class="block border-b border-rule py-3 no-underline hover:bg-page"
      >
        <div class="flex flex-wrap items-center gap-x-4 gap-y-1">
          <Ring kind={h.ring} size={44} />
          <div class="min-w-44 grow">
            <p class="text-lg leading-tight font-bold">{h.machine}</p>
            <p class="small">
              {h.purpose === 'rig proof' ? 'rig proof' : h.purpose}{h.simulated
                ? ', simulated gauge'
                : ''}{h.laid_by ? ', laid by' : ''} ·
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
        Nothing is under pressure. Say above what is on the bench; a simulated gauge is among the gauges, to
        try it dry.
      </p>
    {/each}
  </section>

  <section aria-labelledby="next">
    <h2 id="next" class="border-b border-ink pb-1">Wants hands next</h2>
    <ul>
      {#each bench.data?.next ?? [] as n (n.job_id)}
        <li>
          <a
            href={p('/jobs/:id/:stage', { params: { id: n.job_id, stage: n.stage } })}
            class="block border-b border-rule py-2.5 no-underline hover:bg-page"
          >
            <b>{n.machine}</b><br />{n.text}
          </a>
        </li>
      {:else}
        <li class="text-mute py-3">Nothing waits for a person.</li>
      {/each}
    </ul>
    {#if bench.data?.demo}
      <p class="mt-4 small">
        Hollowell Orchards is a made-up shop. Its gauges are simulated, and say so wherever they are shown.
      </p>
    {/if}
  </section>
</div>
