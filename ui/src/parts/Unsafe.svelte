<script lang="ts">
  // What must be so before this step, and is not ticked; and the way there.
  import type { Job } from '../lib/api/client';
  import { go } from '../lib/job';
  import KeyButton from './KeyButton.svelte';

  let { job, step }: { job: Job; step: Job['steps'][number] } = $props();
</script>

{#if step.unsafe.length && job.state === 'open'}
  <div class="flex flex-wrap items-center gap-x-4 gap-y-2">
    <p class="font-bold text-vermilion">Make safe first: “{step.unsafe[0]}” is not ticked.</p>
    <KeyButton key="g" says="To make safe" act={() => go(job, 'make-safe')}>To make safe</KeyButton>
  </div>
{/if}
