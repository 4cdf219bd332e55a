<script lang="ts">
  // The lamp that burns while a camera or a microphone runs, on every screen.
  import { ear } from '../lib/ear.svelte';
  import { eye } from '../lib/eye.svelte';

  const on = $derived([...(eye.stream ? ['Camera'] : []), ...(ear.on ? ['Microphone'] : [])]);
</script>

{#if on.length}
  <span
    class="flex shrink-0 items-center gap-1 text-sm font-bold text-vermilion"
    role="status"
    data-lamp={on.join(' ')}
  >
    <span class="size-3 rounded-full bg-vermilion" aria-hidden="true"></span>{on.join(' and ')} on
  </span>
{/if}
