<script lang="ts">
  // Which adapter and plate fitted, for the next time this machine is here.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';

  let { job }: { job: Job } = $props();
  let typed = $state('');
  const ask = new Ask();

  async function set(text: string): Promise<void> {
    const j = await ask.send<Job>('/api/jobs/{id}/fitted', { text }, job.id);
    if (!j) return;
    keepJob(j);
    typed = '';
  }
</script>

{#if job.fitted}
  <p><span class="text-mute">What fitted:</span> <b>{job.fitted}</b></p>
{:else if job.state === 'open'}
  <form
    class="flex flex-wrap items-end gap-3"
    autocomplete="off"
    onsubmit={(e) => {
      e.preventDefault();
      void set(typed.trim());
    }}
  >
    {#if job.fitted_before}
      <p class="w-full">
        Last time on this machine: <b>{job.fitted_before}</b>.
        <button type="button" class="underline" onclick={() => void set(job.fitted_before)}
          >The same again</button
        >
      </p>
    {/if}
    <label class="min-w-56 grow"
      ><span class="small">Which adapter and plates fitted</span>
      <input class="field" bind:value={typed} maxlength="300" placeholder="blue bayonet, shallow" /></label
    >
    <button class="btn" disabled={!typed.trim() || ask.busy}>Remember it</button>
  </form>
{/if}
{#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
