<script lang="ts">
  // The O-ring every verdict is drawn as: shape first, colour second, always with its word.
  import type { RingKind } from '../lib/api/client';
  import { ringInk, ringWords } from '../lib/show';

  let { kind, size = 24, says = '' }: { kind: RingKind; size?: number; says?: string } = $props();
  const id = $props.id();
  const word = $derived(says || ringWords[kind]);
</script>

<svg
  width={size}
  height={size}
  viewBox="0 0 48 48"
  role="img"
  aria-label={word}
  class="shrink-0 {ringInk[kind]}"
>
  {#if kind === 'nicked'}
    <mask id="nick{id}">
      <rect width="48" height="48" fill="#fff" />
      <path d="M36 3 L45 12 L33 15 Z" fill="#000" />
    </mask>
  {/if}
  {#if kind === 'cut'}
    <path d="M29.5 8 A17 17 0 1 0 40.5 20" fill="none" stroke="currentColor" stroke-width="7" />
    <g class="breath" fill="none" stroke="currentColor" stroke-width="2.2" stroke-linecap="round">
      <path d="M34 12 q3 -1 4 -4 t4 -4" />
      <path d="M37 15.5 q3 0 5 -3 t4 -2.5" />
    </g>
  {:else}
    <circle
      cx="24"
      cy="24"
      r="17"
      fill="none"
      stroke="currentColor"
      stroke-width={kind === 'dotted' ? 5 : 7}
      stroke-dasharray={kind === 'dotted' ? '0.1 8.8' : undefined}
      stroke-linecap={kind === 'dotted' ? 'round' : undefined}
      mask={kind === 'nicked' ? `url(#nick${id})` : undefined}
    />
  {/if}
</svg>
