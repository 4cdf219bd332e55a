<script lang="ts">
  // Where a leak was seen: it outranks every gauge, and says nothing of the rest.
  import type { Job } from '../lib/api/client';

  let { job }: { job: Job } = $props();
</script>

<p class="mt-2 text-lg" data-seen={job.call.seen.length} data-hidden={job.call.hidden.join(' ')}>
  <b>{job.call.seen.join(', ')}</b>: seen. {job.call.beyond}
</p>
