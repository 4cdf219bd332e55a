<script lang="ts">
  // To look again in an hour, on a day, or every hour for two days; and what there was to see
  // then. Days and times are the shop's, wherever the device is.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';
  import Choice from './Choice.svelte';

  let { job, about = '' }: { job: Job; about?: string } = $props();
  let typed = $state('');
  let person = $state('');
  let on = $state('');
  let often = $state('once');
  let saw = $state<Record<string, string>>({});
  const ask = new Ask();
  const offers = createQuery(() => ({ queryKey: ['looks'], queryFn: () => get('/api/shop/looks') }));
  const hour = 60;
  const day = 24 * hour;
  const rounds: Record<string, { says: string; every?: number; until?: number }> = {
    once: { says: 'one look' },
    'hourly-2': { says: 'every hour for two days, 7 to 19', every: hour, until: 2 * day },
    'two-hourly-4': { says: 'every 2 hours for four days, 7 to 19', every: 2 * hour, until: 4 * day },
    'daily-7': { says: 'every day for a week', every: day, until: 7 * day },
  };
  const choices = Object.entries(rounds).map(([id, r]) => ({ id, title: r.says, why: '' }));

  async function set(first: { minutes: number } | { on: string }): Promise<void> {
    const r = rounds[often];
    const again = r?.every ? { every: r.every, until: r.until, from: 7, to: 19 } : {};
    const content = {
      text: typed.trim() || about,
      ...first,
      ...again,
      ...(person.trim() ? { for: person.trim() } : {}),
    };
    const j = await ask.sheet('/api/jobs/{id}/reminders', content, job.id);
    if (!j) return;
    keepJob(j);
    typed = on = '';
    often = 'once';
  }
  async function done(id: string, more: { stop?: boolean; later?: number } = {}): Promise<void> {
    const j = await ask.sheet(
      '/api/jobs/{id}/reminded',
      { reminder: id, saw: saw[id] ?? '', ...more },
      job.id,
    );
    if (!j) return;
    saw[id] = '';
    keepJob(j);
  }
</script>

<details class="border-t border-rule pt-1" open={job.reminders.length > 0}>
  <summary class="flex min-h-11 items-center"
    >Look again later{job.reminders.length ? ` (${job.reminders.length} waiting)` : ''}</summary
  >
  <ul class="divide-y divide-rule">
    {#each job.reminders as r (r.id)}
      <li class="flex flex-wrap items-end gap-3 py-2" data-reminder={r.due ? 'due' : 'waiting'}>
        <p class="min-w-[min(12rem,100%)] grow {r.due ? 'font-bold text-vermilion' : ''}">
          <span class="figures">{r.due_says}</span>
          {r.for ? `${r.for}: ` : ''}{r.text}{#if r.due}, now{/if}
        </p>
        <label class="grow"
          ><span class="small">What there was to see</span>
          <input
            class="field"
            value={saw[r.id] ?? ''}
            oninput={(e) => (saw[r.id] = e.currentTarget.value)}
            maxlength="300"
            placeholder="nothing new"
          /></label
        >
        <button class="btn" disabled={ask.busy} onclick={() => void done(r.id)}>Looked</button>
        {#if r.due}<button class="btn" disabled={ask.busy} onclick={() => void done(r.id, { later: 30 })}
            >In 30 min</button
          >{/if}
        {#if r.more}<button class="btn" disabled={ask.busy} onclick={() => void done(r.id, { stop: true })}
            >No more</button
          >{/if}
      </li>
    {/each}
  </ul>
  <div class="flex flex-wrap items-end gap-2 pt-2">
    <label class="min-w-[min(14rem,100%)] grow"
      ><span class="small">What to look at</span>
      <input
        class="field"
        bind:value={typed}
        maxlength="200"
        placeholder={about || 'the powder at the lower seam'}
      /></label
    >
    <label class="w-32"
      ><span class="small">Who looks</span>
      <input class="field" bind:value={person} maxlength="60" placeholder="anyone" /></label
    >
    <div class="w-80 max-w-full">
      <Choice label="How often" options={choices} value={often} choose={(id) => (often = id)} />
    </div>
  </div>
  <div class="flex flex-wrap items-end gap-2 pt-2">
    {#each offers.data ?? [] as s (s.says)}
      <button
        class="btn"
        disabled={ask.busy || !(typed.trim() || about)}
        onclick={() => void set(s.on ? { on: s.on } : { minutes: s.minutes })}>{s.says}</button
      >
    {/each}
    <label
      ><span class="small">or on a day, by the shop's clock</span>
      <input class="field figures" type="datetime-local" bind:value={on} /></label
    >
    <button
      class="btn"
      disabled={ask.busy || !on || !(typed.trim() || about)}
      onclick={() => void set({ on: on.slice(0, 16) })}>on that day</button
    >
  </div>
  {#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
</details>
