<script lang="ts">
  // To look again in an hour or in a day, or when it should be cool enough; and what
  // there was to see then.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';
  import { dayTime } from '../lib/show';

  let { job, about = '' }: { job: Job; about?: string } = $props();
  let typed = $state('');
  let saw = $state<Record<string, string>>({});
  const ask = new Ask();
  const spans = [
    { minutes: 40, says: 'in 40 min' },
    { minutes: 60, says: 'in an hour' },
    { minutes: 1440, says: 'in a day' },
  ];

  async function set(minutes: number): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/reminders', { text: typed.trim() || about, minutes }, job.id);
    if (!j) return;
    keepJob(j);
    typed = '';
  }
  async function done(id: string, stop = false): Promise<void> {
    const j = await ask.sheet(
      '/api/jobs/{id}/reminded',
      { reminder: id, saw: saw[id] ?? '', ...(stop ? { stop } : {}) },
      job.id,
    );
    if (j) saw[id] = '';
    if (j) keepJob(j);
  }
</script>

<details class="border-t border-rule pt-1" open={job.reminders.length > 0}>
  <summary class="flex min-h-11 items-center"
    >Look again later{job.reminders.length ? ` (${job.reminders.length} waiting)` : ''}</summary
  >
  <ul class="divide-y divide-rule">
    {#each job.reminders as r (r.id)}
      <li class="flex flex-wrap items-end gap-3 py-2">
        <p class="min-w-[min(12rem,100%)] grow {r.due ? 'font-bold text-vermilion' : ''}">
          <span class="figures">{dayTime(r.due_at)}</span>
          {r.text}{#if r.due}, now{/if}
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
        {#if r.more}<button class="btn" disabled={ask.busy} onclick={() => void done(r.id, true)}
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
    {#each spans as s (s.minutes)}
      <button class="btn" disabled={ask.busy || !(typed.trim() || about)} onclick={() => void set(s.minutes)}
        >{s.says}</button
      >
    {/each}
  </div>
  {#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
</details>
