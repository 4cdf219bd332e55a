<script lang="ts">
  // A button that acts only once it was kept down for a second: what it does cannot be taken back.
  import type { Snippet } from 'svelte';
  import { heldMs, keptDown, keyName, keys } from '../lib/keys.svelte';

  let {
    children,
    key,
    says,
    act,
    where = 'This stage',
  }: { children: Snippet; key: string; says: string; act: () => void; where?: string } = $props();
  let pressing = $state(false);
  let timer: ReturnType<typeof setTimeout> | undefined;
  const on = $derived(pressing || keptDown() === key);

  function stop(): void {
    clearTimeout(timer);
    pressing = false;
  }
  $effect(() => stop);
  $effect(() => keys([{ key, says: `${says} (keep the key down)`, where, do: () => act(), held: true }]));
</script>

<button
  class="relative btn overflow-hidden border-vermilion select-none"
  data-held={on}
  onpointerdown={() => {
    pressing = true;
    timer = setTimeout(() => {
      stop();
      act();
    }, heldMs);
  }}
  onpointerup={stop}
  onpointerleave={stop}
  onpointercancel={stop}
  oncontextmenu={(e) => e.preventDefault()}
  onclick={(e) => {
    if (e.detail === 0) act();
  }}
>
  <span
    class="absolute inset-y-0 left-0 bg-vermilion-wash transition-[width] ease-linear {on
      ? 'w-full duration-1000'
      : 'w-0 duration-0'}"
    aria-hidden="true"
  ></span>
  <span class="relative">{@render children()} <span class="small">keep it down</span></span>
  <span class="relative key text-mute">{keyName(key)}</span>
</button>
