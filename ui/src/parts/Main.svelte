<script lang="ts">
  // The one thing to do next on a stage: a large button that Enter presses.
  import type { Snippet } from 'svelte';
  import { keys } from '../lib/keys.svelte';

  let {
    children,
    says,
    act,
    disabled = false,
    key = 'Enter',
    also = '',
  }: {
    children: Snippet;
    says: string;
    act: () => void;
    disabled?: boolean;
    key?: string;
    also?: string;
  } = $props();

  let button = $state<HTMLButtonElement>();
  $effect(() => {
    const one = { key, says, where: 'This stage', do: () => act(), when: () => !disabled, at: () => button };
    return keys(also ? [one, { ...one, key: also }] : [one]);
  });
</script>

<button bind:this={button} class="btn min-h-14 btn-main px-6 text-lg" {disabled} onclick={act}>
  {@render children()}
  <span class="key shrink-0 opacity-80"
    >{key === ' ' ? 'Space' : key === 'Enter' ? 'Enter' : key.toUpperCase()}</span
  >
</button>
