<script lang="ts">
  // A button with its key, listed in the help for as long as it is shown.
  import type { Snippet } from 'svelte';
  import { keyName, keys } from '../lib/keys.svelte';

  let {
    children,
    key,
    says,
    act,
    disabled = false,
    where = 'This stage',
    class: extra = '',
    pressed,
  }: {
    children: Snippet;
    key: string;
    says: string;
    act: () => void;
    disabled?: boolean;
    where?: string;
    class?: string;
    pressed?: boolean;
  } = $props();

  let button = $state<HTMLButtonElement>();
  $effect(() => keys([{ key, says, where, do: () => act(), when: () => !disabled, at: () => button }]));
</script>

<button bind:this={button} class="btn {extra}" {disabled} onclick={act} aria-pressed={pressed}>
  {@render children()}
  <span class="key {extra.includes('btn-main') ? 'opacity-80' : 'text-mute'}">{keyName(key)}</span>
</button>
