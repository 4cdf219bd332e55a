<script lang="ts">
  // The end of a shift: what is under pressure, what waits, what was promised. It prints.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { queries } from '../lib/query';
  import { p } from '../lib/routes';
  import { dayTime } from '../lib/show';
  import Ring from '../parts/Ring.svelte';

  const query = createQuery(() => ({ queryKey: ['bench', 'handover'], queryFn: () => get('/api/handover') }));
  const v = $derived(query.data);
  const ask = new Ask();
  let note = $state('');
  let to = $state<Record<string, string>>({});
  // Those of one person stand together.
  const waits = $derived((v?.waits ?? []).toSorted((a, b) => a.hands.localeCompare(b.hands)));

  async function leave(text: string): Promise<void> {
    if (await ask.send<Receipt>('/api/handover', { text })) {
      note = '';
      await queries.invalidateQueries({ queryKey: ['bench'] });
    }
  }
  async function pass(job: string): Promise<void> {
    if (await ask.send<Receipt>('/api/jobs/{id}/passed', { to: to[job] ?? '' }, job)) {
      to[job] = '';
      await queries.invalidateQueries({ queryKey: ['bench'] });
    }
  }
</script>

{#snippet hands(job: string, now: string)}
  <form
    class="flex max-w-full flex-wrap items-center gap-2 print:hidden"
    onsubmit={(e) => {
      e.preventDefault();
      void pass(job);
    }}
    autocomplete="off"
  >
    <input
      class="field w-32"
      list="people"
      aria-label="Pass it to"
      placeholder="pass to"
      maxlength="60"
      value={to[job] ?? ''}
      oninput={(e) => (to[job] = e.currentTarget.value)}
    />
    <button class="btn" disabled={ask.busy || !(to[job] ?? '').trim()} aria-label="Pass it from {now} on"
      >Pass</button
    >
  </form>
{/snippet}

<div
  data-view="handover"
  data-ready={v !== undefined}
  data-note={v?.note.text ?? ''}
  class="mx-auto flex max-w-5xl flex-col gap-5 px-4 py-5"
>
  <div class="flex flex-wrap items-end gap-3">
    <h1 class="grow">End of the shift</h1>
    <button class="btn print:hidden" onclick={() => print()}>Print</button>
  </div>
  {#if query.error}<p class="text-vermilion" role="alert">{query.error.message}</p>{/if}
  {#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
  <datalist id="people"
    >{#each v?.people ?? [] as x (x)}<option value={x}></option>{/each}</datalist
  >
  {#if v}
    <section aria-label="Note">
      {#if v.note.text}
        <div class="flex flex-wrap items-center gap-3 border-y-2 border-ink py-2">
          <p class="min-w-0 grow">
            <b>{v.note.text}</b> <span class="small figures">{v.note.by}, {dayTime(v.note.at)}</span>
          </p>
          <button class="btn print:hidden" disabled={ask.busy} onclick={() => void leave('')}
            >Take it off</button
          >
        </div>
      {/if}
      <form
        class="mt-2 flex flex-wrap items-end gap-2 print:hidden"
        onsubmit={(e) => {
          e.preventDefault();
          void leave(note);
        }}
        autocomplete="off"
      >
        <label class="min-w-0 grow"
          ><span class="small">A note for the next shift</span>
          <input
            id="shift-note"
            class="field"
            bind:value={note}
            maxlength="500"
            placeholder="the compressor drain is open"
          /></label
        >
        <button class="btn" disabled={ask.busy || !note.trim()}>Leave it</button>
      </form>
    </section>
    <section aria-label="Under pressure" data-under={v.under.length}>
      <h2 class="border-b border-ink pb-1">Under pressure</h2>
      <ul class="divide-y divide-rule">
        {#each v.under as h (h.job_id)}
          <li class="flex flex-wrap items-center gap-x-4 gap-y-3 py-2">
            <a
              class="flex min-h-12 min-w-0 grow items-center gap-3 no-underline hover:bg-page"
              href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: h.stage } })}
              ><Ring kind={h.ring} size={32} /><span class="min-w-0"
                ><b>{h.machine}</b>, {h.hands}{h.left ? ', left running' : ''}<span class="block small"
                  >{h.says}</span
                ></span
              ><b class="ml-auto whitespace-nowrap figures">{h.value}</b></a
            >
            {@render hands(h.job_id, h.hands)}
          </li>
        {:else}<li class="py-2 text-mute">Nothing: all is bled down.</li>{/each}
      </ul>
    </section>
    <section aria-label="Waits">
      <h2 class="border-b border-ink pb-1">Waits for hands</h2>
      <ul class="divide-y divide-rule">
        {#each waits as w (w.job_id)}
          <li class="flex flex-wrap items-center gap-x-4 gap-y-3 py-2" data-waits={w.hands}>
            <a
              class="flex min-h-12 min-w-0 grow flex-wrap items-center gap-x-3 no-underline hover:bg-page"
              href={p('/jobs/:id/:stage', { params: { id: w.job_id, stage: w.stage } })}
              ><span class="min-w-0 grow"
                ><b>{w.machine}</b>, {w.hands}<span class="block small"
                  >{w.text}{w.owner ? ` Customer: ${w.owner}.` : ''}</span
                ></span
              ></a
            >
            {@render hands(w.job_id, w.hands)}
          </li>
        {:else}<li class="py-2 text-mute">No other job is open.</li>{/each}
      </ul>
    </section>
    <section aria-label="Promised">
      <h2 class="border-b border-ink pb-1">Promised and due</h2>
      <ul class="divide-y divide-rule">
        {#each v.promised as n (n.job_id + n.due_at)}
          <li>
            <a
              class="flex min-h-12 flex-wrap items-center gap-x-3 no-underline hover:bg-page"
              href={p('/jobs/:id/:stage', { params: { id: n.job_id, stage: n.stage } })}
              ><span class="figures {n.due ? 'font-bold text-vermilion' : ''}">{n.due_says}</span><span
                ><b>{n.machine}</b>: {n.text}</span
              ></a
            >
          </li>
        {/each}
        {#each v.questions as q (q.job_id + q.says)}
          <li>
            <a
              class="flex min-h-12 flex-wrap items-center gap-x-3 no-underline hover:bg-page"
              href={p('/jobs/:id', { params: { id: q.job_id } })}><span><b>{q.machine}</b>: {q.says}</span></a
            >
          </li>
        {/each}
        {#each v.kit as d (d.kit_id + d.text)}
          <li>
            <a
              class="flex min-h-12 flex-wrap items-center gap-x-3 no-underline hover:bg-page"
              href={p('/kit/:piece', { params: { piece: d.kit_id } })}
              ><span class="figures {d.overdue ? 'font-bold text-vermilion' : ''}">{d.day}</span><span
                ><b>{d.name}</b>: {d.text}</span
              ></a
            >
          </li>
        {/each}
        {#each v.unproved as j (j.id)}
          <li>
            <a
              class="flex min-h-12 flex-wrap items-center gap-x-3 no-underline hover:bg-page"
              href={p('/jobs/:id', { params: { id: j.id } })}
              ><span
                ><b>{j.machine}</b>: mended, {j.mend === 'leaks' ? 'still leaks' : 'not proved yet'}.</span
              ></a
            >
          </li>
        {/each}
        {#if !v.promised.length && !v.questions.length && !v.kit.length && !v.unproved.length}
          <li class="py-2 text-mute">Nothing is due.</li>
        {/if}
      </ul>
    </section>
  {/if}
</div>
