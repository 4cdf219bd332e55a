<script lang="ts">
  import type { Job, Stage } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob, onward } from '../lib/job';
  import Main from '../parts/Main.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  let text = $state('');
  const ask = new Ask();
  const seen = $derived(job.facts.filter((f) => f.subject.startsWith('remark/') && f.stage === stage.id));

  async function add(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const j = await ask.send<Job>('/api/jobs/{id}/remarks', { stage: stage.id, text }, job.id);
    if (j) {
      keepJob(j);
      text = '';
    }
  }
</script>

<dl class="grid grid-cols-[8rem_1fr] gap-y-1 border-y border-rule py-2">
  <dt class="text-mute">Machine</dt>
  <dd class="font-bold">{job.machine}</dd>
  <dt class="text-mute">Complaint</dt>
  <dd>{job.complaint}</dd>
  <dt class="text-mute">Circuit</dt>
  <dd>{job.circuit}</dd>
</dl>
<form onsubmit={add} class="flex flex-wrap items-end gap-3">
  <label class="grow">
    <span>Seen, heard, told, or your own hunch</span>
    <input
      class="mt-1 field"
      bind:value={text}
      maxlength="600"
      disabled={job.state !== 'open'}
      placeholder="crust below the top hose; topped up twice this month"
    />
  </label>
  <button class="btn" disabled={!text.trim() || ask.busy}>Take it down</button>
</form>
{#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
{#if seen.length}
  <ul class="list-disc pl-6">
    {#each seen as f (f.id)}<li>{f.sentence} <span class="small">{f.by}</span></li>{/each}
  </ul>
{/if}
<div><Main says="On to the next stage" act={() => onward(job, stage.id)}>Make safe</Main></div>
