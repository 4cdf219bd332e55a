<script lang="ts">
  // The calculators, beside whatever is being done. What is worked out can go to
  // the job that is open.
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { get, post, type Answer, type Calculator } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob, readJob } from '../lib/job';
  import { keys } from '../lib/keys.svelte';
  import { route } from '../lib/routes';
  import { figure } from '../lib/show';

  let { at = $bindable(), close }: { at: string; close: () => void } = $props();

  const all = createQuery(() => ({
    queryKey: ['slate'],
    queryFn: () => get('/api/slate'),
    staleTime: Infinity,
  }));
  const calc = $derived(all.data?.find((c) => c.id === at));
  // What was typed stays for as long as the page does.
  let typed = $state<Record<string, Record<string, string>>>({});
  const fields = $derived(calc ? { ...(typed[calc.id] ?? {}) } : {});
  const ready = $derived(
    calc !== undefined && calc.fields.every((f) => f.optional || f.default || fields[f.id]?.trim()),
  );
  const answer = createQuery(() => ({
    queryKey: ['calculate', at, JSON.stringify(fields)],
    queryFn: () =>
      post(`/api/slate/${at}` as '/api/slate/{name}', {
        fields: Object.fromEntries(Object.entries(fields).filter(([, v]) => v.trim() !== '')),
      }) as Promise<Answer>,
    enabled: ready,
    retry: false,
    placeholderData: keepPreviousData,
  }));
  const told = $derived(ready && !answer.error ? answer.data : undefined);

  const jobId = $derived(
    route.pathname.startsWith('/jobs/') ? ((route.params as { id?: string }).id ?? '') : '',
  );
  const job = createQuery(() => ({
    queryKey: ['job', jobId],
    queryFn: () => readJob(jobId),
    enabled: jobId !== '',
  }));
  const open = $derived(job.data?.state === 'open' ? job.data : undefined);
  const ask = new Ask();
  let sent = $state('');

  async function toJob(
    path: '/api/jobs/{id}/air' | '/api/jobs/{id}/mark' | '/api/jobs/{id}/remarks',
    body: object,
    says: string,
  ) {
    if (!open) return;
    sent = '';
    const j = await ask.sheet(path, body, open.id);
    if (j) {
      keepJob(j);
      sent = says;
    }
  }

  function set(c: Calculator, id: string, value: string): void {
    typed[c.id] = { ...(typed[c.id] ?? {}), [id]: value };
    sent = '';
  }

  function asked(c: Calculator): string {
    return c.fields
      .map((f) => fields[f.id]?.trim())
      .filter(Boolean)
      .join(', ');
  }

  let aside: HTMLElement;
  $effect(() => {
    const before = document.activeElement;
    aside.focus({ preventScroll: true });
    return () => before instanceof HTMLElement && before.focus({ preventScroll: true });
  });
  $effect(() => keys([{ key: 'Escape', says: 'Close the calculators', where: 'Everywhere', do: close }]));
</script>

<!-- It takes the focus when it opens, and Escape closes it from within its fields too. -->
<svelte:window
  onkeydown={(e) => {
    if (e.key === 'Escape' && !e.defaultPrevented && aside.contains(document.activeElement)) {
      e.preventDefault();
      close();
    }
  }}
/>
<aside
  bind:this={aside}
  tabindex="-1"
  aria-label="Calculators"
  data-calculator={calc?.id ?? ''}
  data-told={told !== undefined && !answer.isPlaceholderData}
  class="fixed inset-0 z-30 overflow-y-auto border-l-2 border-ink bg-page p-4 outline-none sm:left-auto sm:w-[400px] lg:top-14"
>
  <div class="flex items-start gap-2">
    {#if calc}
      <button class="btn px-3" onclick={() => (at = '')} aria-label="All calculators">←</button>
      <h2 class="min-h-11 grow content-center">{calc.title}</h2>
    {:else}
      <h2 class="min-h-11 grow content-center">Calculators</h2>
    {/if}
    <button class="btn px-3" onclick={close}>Close <span class="key text-mute">K</span></button>
  </div>
  {#if !calc}
    <ul class="mt-2 divide-y divide-rule border-y border-rule">
      {#each all.data ?? [] as c (c.id)}
        <li>
          <button class="min-h-11 w-full text-left hover:bg-brass-wash" onclick={() => (at = c.id)}
            >{c.title}</button
          >
        </li>
      {:else}
        <li class="py-3 text-mute">{all.error?.message ?? 'Opening…'}</li>
      {/each}
    </ul>
  {:else}
    <form class="mt-3 flex flex-col gap-3" autocomplete="off" onsubmit={(e) => e.preventDefault()}>
      {#each calc.fields as f, i (f.id)}
        <label class="block">
          <span class="flex justify-between gap-2">
            {f.label}
            {#if f.optional}<span class="small">if known</span>{/if}
          </span>
          {#if f.choices.length}
            <select
              class="mt-1 field"
              value={fields[f.id] ?? f.default}
              onchange={(e) => set(calc, f.id, e.currentTarget.value)}
            >
              {#each f.choices as c (c)}<option>{c}</option>{/each}
            </select>
          {:else}
            <input
              class="mt-1 field figures"
              value={fields[f.id] ?? ''}
              oninput={(e) => set(calc, f.id, e.currentTarget.value)}
              placeholder={f.default || f.help.replace(/^such as /, '')}
              {@attach (el) => {
                if (i === 0) el.focus();
              }}
              id="slate-{f.id}"
            />
          {/if}
          {#if f.unit && f.help}<span class="small">{f.help}; a bare number is {f.unit}</span>
          {:else if f.unit}<span class="small">a bare number is {f.unit}</span>
          {:else if f.help && f.default}<span class="small">{f.help}</span>{/if}
        </label>
      {/each}
    </form>
    {#if ready && answer.error}
      <p class="mt-3 text-vermilion" role="alert">{answer.error.message}</p>
    {:else if told}
      <div role="status" class="mt-4 border-t-2 border-ink pt-3">
        <p class="text-lg font-bold">{told.sentence}</p>
        <dl class="mt-2 divide-y divide-rule">
          {#each told.figures as g (g.id)}
            <div class="flex items-baseline justify-between gap-3 py-1">
              <dt class="text-sm">{g.label}</dt>
              <dd class="text-right whitespace-nowrap figures">
                <b>{g.text}</b>
                {#if g.low !== null && g.high !== null}
                  <span class="block small">{figure(g.low, 3)} to {figure(g.high, 3)}</span>
                {/if}
              </dd>
            </div>
          {/each}
        </dl>
        {#each told.notes as n (n)}<p class="mt-1 small">{n}</p>{/each}
        {#if open}
          <div class="mt-3 flex flex-col gap-2">
            {#if told.air}
              {@const air = told.air}
              <button
                class="btn btn-main"
                disabled={ask.busy}
                onclick={() =>
                  toJob(
                    '/api/jobs/{id}/air',
                    {
                      m3: air.m3,
                      se_m3: air.se_m3,
                      by_strokes: air.by_strokes,
                      says: `${calc.title}: ${asked(calc)}.`.slice(0, 200),
                    },
                    `Taken over as the trapped air of ${open.machine}.`,
                  )}>Use as {open.machine}'s trapped air</button
              >
            {:else if calc.id === 'mark'}
              <button
                class="btn btn-main"
                disabled={ask.busy}
                onclick={() =>
                  toJob(
                    '/api/jobs/{id}/mark',
                    { text: fields.text, reading: 0 },
                    `Taken over as the mark of ${open.machine}.`,
                  )}>Use as {open.machine}'s mark</button
              >
            {/if}
            <button
              class="btn"
              disabled={ask.busy}
              onclick={() =>
                toJob(
                  '/api/jobs/{id}/remarks',
                  { stage: 'first-look', text: `${calc.title}: ${asked(calc)}. ${told.sentence.trim()}` },
                  `Written on the sheet of ${open.machine}.`,
                )}>Write it on {open.machine}'s sheet</button
            >
          </div>
        {/if}
        {#if sent}<p class="mt-2 font-bold text-teal" role="status" data-sent>{sent}</p>{/if}
        {#if ask.says}<p class="mt-2 text-vermilion" role="alert">{ask.says}</p>{/if}
      </div>
    {/if}
    <p class="mt-4 border-t border-rule pt-2 small">{calc.formula}</p>
  {/if}
</aside>
