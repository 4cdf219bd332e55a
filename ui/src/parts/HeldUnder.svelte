<script lang="ts">
  // Under which condition a hold is done: always shown, and put right by one press, also
  // afterwards.
  import type { Hold, Job } from '../lib/api/client';
  import { send } from '../lib/outbox.svelte';

  let { job, hold }: { job: Job; hold: Hold } = $props();
  const step = $derived(job.steps.find((s) => s.id === hold.test));
  const offered = $derived(step?.held_under ?? []);
  const same = (a: Hold['condition'], b: Hold['condition']) =>
    a.under === b.under &&
    a.warmth === b.warmth &&
    (a.engine ?? false) === (b.engine ?? false) &&
    a.note === b.note;
</script>

{#if job.state === 'open' && offered.length && hold.purpose !== 'rig proof'}
  <fieldset class="flex flex-wrap items-center gap-2" data-held-under={hold.under_text}>
    <legend class="float-left mr-1 text-mute">Held</legend>
    {#each offered as c (c.title)}
      {@const on = same(c.condition, hold.condition)}
      <button
        class="btn {on ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
        aria-pressed={on}
        onclick={() => !on && send('/api/holds/{id}/condition', hold.id, { condition: c.condition })}
        >{c.title}</button
      >
    {/each}
  </fieldset>
{/if}
