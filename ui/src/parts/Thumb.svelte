<script lang="ts">
  // What the thumb works: one black button, always in the same place. On a phone the bar lies at the bottom
  // edge, on a phone held across at the right, on the bench under the value.
  import type { Snippet } from 'svelte';
  import { keyName, keys } from '../lib/keys.svelte';
  import { outbox } from '../lib/outbox.svelte';

  export interface Primary {
    id: string; // what it does, as a marked state
    label: string;
    says: string; // in the help
    act: () => void;
    also?: string; // a second key
    disabled?: boolean;
    long?: () => void; // when it is kept down
    small?: string;
  }

  let {
    of,
    primary,
    idle = '',
    rows,
    sheet,
  }: {
    of: string; // the hold or job whose refusals are shown here
    primary: Primary | undefined;
    idle?: string; // what to say where there is nothing to press
    rows?: Snippet;
    sheet?: Snippet;
  } = $props();

  let open = $state(false);
  $effect(() => outbox.claim(of));
  const refusal = $derived(outbox.refusedOn(of));
  const ready = () => primary !== undefined && !primary.disabled;
  $effect(() => {
    if (!primary) return;
    const one = { key: ' ', says: primary.says, where: 'This stage', do: () => primary.act(), when: ready };
    return keys(primary.also ? [one, { ...one, key: primary.also }] : [one]);
  });

  const longMs = 500;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let long = false;
  $effect(() => () => clearTimeout(timer));
</script>

<section class="thumb" aria-label="What to press" data-primary={primary?.id ?? 'none'}>
  {#if sheet}
    <div class="thumb-sheet {open ? '' : 'hidden'}" data-sheet={open}>
      {@render sheet()}
    </div>
  {/if}
  {#if refusal}
    <p class="border-l-4 border-vermilion bg-vermilion-wash px-2 py-1" role="alert">
      {refusal}
      <button class="min-h-11 px-2 underline" onclick={() => outbox.seen()}>Close</button>
    </p>
  {/if}
  {@render rows?.()}
  <div class="flex gap-2">
    {#if primary}
      <button
        class="btn min-h-[88px] min-w-0 grow touch-manipulation btn-main text-2xl leading-tight select-none"
        data-thumb
        disabled={primary.disabled}
        onpointerdown={() => {
          long = false;
          clearTimeout(timer);
          if (primary.long)
            timer = setTimeout(() => {
              long = true;
              primary.long?.();
            }, longMs);
        }}
        onpointerup={() => clearTimeout(timer)}
        onpointerleave={() => clearTimeout(timer)}
        oncontextmenu={(e) => primary.long && e.preventDefault()}
        onclick={() => {
          if (!long) primary.act();
          long = false;
        }}
      >
        <span
          >{primary.label}{#if primary.small}<span class="block text-sm font-normal opacity-80"
              >{primary.small}</span
            >{/if}</span
        >
        <span class="key shrink-0 text-sm opacity-80">{keyName(' ')}</span>
      </button>
    {:else}
      <p
        class="flex min-h-[88px] min-w-0 grow items-center justify-center rounded border-[1.5px] border-dashed border-edge px-3 text-center text-lg"
        data-thumb
      >
        {idle}
      </p>
    {/if}
    {#if sheet}
      <button
        class="btn min-h-[88px] w-[80px] shrink-0 px-1"
        aria-expanded={open}
        onclick={() => (open = !open)}>{open ? 'Less' : 'More'}</button
      >
    {/if}
  </div>
</section>
