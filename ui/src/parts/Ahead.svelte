<script lang="ts">
  // How long the hold will need, before it begins.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Job } from '../lib/api/client';
  import { planOf } from '../lib/job';

  let { job, step = '' }: { job: Job; step?: string } = $props();
  const plan = $derived(planOf(job, step));
  const ahead = createQuery(() => ({
    queryKey: ['hold-plan', job.id, step, plan?.gauge, plan?.wanted, plan?.target.pa],
    queryFn: () => get('/api/jobs/{id}/hold-plan', { id: job.id, query: { step } }),
    enabled: plan !== null && job.state === 'open',
    staleTime: Infinity,
    retry: false,
  }));
</script>

{#if ahead.data}
  <p class="text-sm" data-ahead>
    {ahead.data.says}{#if ahead.data.finer}<span class="block text-mute">{ahead.data.finer}</span>{/if}
    {#if ahead.data.filled}<span class="block text-mute" data-filled>{ahead.data.filled}</span>{/if}
  </p>
{:else if ahead.isFetching}
  <p class="text-sm text-mute">Working out how long to hold…</p>
{/if}
