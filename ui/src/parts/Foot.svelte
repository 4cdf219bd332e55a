<script lang="ts">
  // What a stage goes on by: its black button, at the bottom edge of the window for as long as its own place
  // lies below it.
  import type { Snippet } from 'svelte';

  let { children }: { children: Snippet } = $props();
</script>

<div class="foot">{@render children()}</div>
