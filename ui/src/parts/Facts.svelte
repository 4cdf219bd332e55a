<script lang="ts">
  // What we know so far: sentences, each with where it came from.
  import type { Job } from '../lib/api/client';
  import { navigate, p } from '../lib/routes';
  import Hands from './Hands.svelte';

  let { job }: { job: Job } = $props();
  let all = $state(false);
  const plain = $derived(job.facts.filter((f) => f.subject !== 'tick'));
  const shown = $derived((all ? job.facts : plain.filter((f) => !f.superseded)).toReversed());
  const hidden = $derived(job.facts.length - plain.filter((f) => !f.superseded).length);
</script>

<section aria-label="What we know so far">
  <h2 class="border-b border-ink pb-1">What we know so far</h2>
  <a
    class="flex min-h-11 items-center underline"
    href={p('/machines/:name', { params: { name: encodeURIComponent(job.machine) } })}
    >All visits of {job.machine}</a
  >
  <Hands {job} />
  <ol class="divide-y divide-rule">
    {#each shown as f (f.id)}
      <li
        class="pt-2 {f.superseded ? 'text-mute line-through' : ''}"
        data-fact={f.subject}
        data-about={f.about}
        data-stands={!f.superseded}
      >
        {f.sentence}
        {#if f.against && !f.superseded}
          <p class="mt-1 border-l-2 border-vermilion pl-2 small" data-against>
            Contradicts an earlier entry: <s>{f.against}</s>
          </p>
        {/if}
        <p class="flex flex-wrap items-center gap-1 small">
          <span class="min-w-0"
            >{f.source}{#if f.by}, {f.by}{/if}</span
          >
          <button
            class="min-h-11 min-w-11 px-2 text-left underline"
            onclick={() => navigate('/jobs/:id/:stage', { params: { id: job.id, stage: f.stage } })}
          >
            {job.stages.find((s) => s.id === f.stage)?.title ?? f.stage}
          </button>
        </p>
      </li>
    {:else}
      <li class="text-mute py-2">Nothing yet. Every mark, count and look is listed here with its source.</li>
    {/each}
  </ol>
  {#if hidden > 0}
    <button class="mt-2 min-h-11 text-left small underline" onclick={() => (all = !all)}>
      {all ? 'Show less' : `Show all, with ticks and corrections (${hidden} more)`}
    </button>
  {/if}
</section>
