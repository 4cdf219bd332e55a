<script lang="ts">
  // Gauges that are not to be believed just now, and the remedy.
  import type { Hold } from '../lib/api/client';

  let { hold }: { hold: Hold } = $props();
</script>

{#each hold.faults as f (f.gauge)}
  <p role="alert" data-fault={f.kind} class="border-l-4 border-brass bg-brass-wash px-3 py-2">
    {#if hold.far}<b>{f.gauge === 2 ? 'Far gauge.' : 'Near gauge.'}</b>{/if}
    {f.says}
  </p>
{/each}
