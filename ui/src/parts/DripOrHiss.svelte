<script lang="ts">
  // The one question that sets the size of a leak in a circuit full of liquid: the same
  // fall is far more liquid than gas. Pressed again, an answer is taken back.
  import type { Job } from '../lib/api/client';
  import { noticed } from '../lib/job';
  import KeyButton from './KeyButton.svelte';

  let { job }: { job: Job } = $props();
  const set = (how: 'drip' | 'hiss') => noticed(job, job.escape === how ? '' : how);
</script>

<div
  class="flex flex-wrap items-center gap-3"
  role="group"
  aria-label="Did it drip, or hiss?"
  data-escape={job.escape}
>
  <b>Did it drip, or hiss?</b>
  <KeyButton key="d" says="It dripped" pressed={job.escape === 'drip'} act={() => set('drip')}
    >Dripped</KeyButton
  >
  <KeyButton key="h" says="It hissed" pressed={job.escape === 'hiss'} act={() => set('hiss')}
    >Hissed</KeyButton
  >
  {#if job.escape === ''}<span class="small">Until you say, the larger size stands.</span>{/if}
</div>
