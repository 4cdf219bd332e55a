<script lang="ts">
  // What practitioners do in different ways: the school of each, chosen for this job.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';
  import Choice from './Choice.svelte';

  let { job }: { job: Job } = $props();
  const ask = new Ask();

  async function choose(matter: string, school: string): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/schools', { matter, school }, job.id);
    if (j) keepJob(j);
  }
</script>

{#if job.matters.length}
  <section class="flex flex-col" aria-label="Where schools differ">
    {#each job.matters as m (m.id)}
      {@const now = m.schools.find((s) => s.id === m.chosen)}
      {#if job.state === 'open'}
        <Choice
          label={m.title}
          options={m.schools}
          value={m.chosen}
          choose={(school) => void choose(m.id, school)}
        />
      {:else}
        <p class="pt-2"><span class="text-mute">{m.title}</span> <b>{now?.title}</b></p>
      {/if}
      {#if now}<p class="py-1 small" data-matter={m.id} data-school={now.id}>{now.why}</p>{/if}
    {/each}
    {#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
  </section>
{/if}
