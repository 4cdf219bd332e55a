<script lang="ts">
  // The figures that a step came to.
  import type { Step } from '../lib/api/client';

  let { step }: { step: Step } = $props();
</script>

{#if step.outcome.figures.length}
  <dl class="grid gap-x-6 sm:grid-cols-3">
    {#each step.outcome.figures as f (f.id)}
      <div class="py-1">
        <dt class="small">{f.label}</dt>
        <dd class="text-2xl font-bold figures">{f.text}</dd>
      </div>
    {/each}
  </dl>
{/if}
