<script lang="ts">
  // The gauge at the other end, beside the one that is judged.
  import type { Hold } from '../lib/api/client';
  import { me } from '../lib/me.svelte';

  let { hold }: { hold: Hold } = $props();
</script>

{#if hold.far}
  <div
    class="flex flex-wrap items-center gap-x-4 gap-y-2 border-y border-rule py-2"
    data-far={hold.far.value?.text ?? ''}
    data-near={hold.value?.text ?? ''}
  >
    <p>
      <span class="small">Far gauge</span>
      <span class="text-3xl font-bold figures">{hold.far.value?.text ?? '–'}</span>
      {hold.far.unit}
    </p>
    <p class="grow">{hold.far.says || `${hold.far.gauge.name}: no reading yet.`}</p>
    {#if hold.far.gauge.kind === 'needle' && hold.state !== 'ended'}
      <label class="flex min-h-11 items-center gap-2"
        ><input type="checkbox" class="size-5" bind:checked={me.far} /> I stand at the far gauge</label
      >
    {/if}
  </div>
{/if}
