<script lang="ts">
  // The bolts of a plate with the order in which they are turned: from the middle
  // outwards, crosswise, once in each round.
  import Main from './Main.svelte';
  import KeyButton from './KeyButton.svelte';

  let {
    order,
    done,
    set,
    finished,
    locked,
  }: { order: number[][]; done: number; set: (n: number) => void; finished: boolean; locked: boolean } =
    $props();
  const widest = $derived(Math.max(...order.map((r) => r.length)));
  const w = $derived(Math.max(widest * 74, 160) + 30);
  const h = $derived(order.length * 78 + 26);
</script>

<svg
  viewBox="0 0 {w} {h}"
  class="max-h-80 w-full"
  role="img"
  aria-label="Order of the bolts, row by row: {order.map((r) => r.join(' ')).join('; ')}"
>
  <rect
    x="4"
    y="4"
    width={w - 8}
    height={h - 8}
    rx="16"
    fill="var(--page)"
    stroke="var(--ink)"
    stroke-width="2"
  />
  {#each order as row, r (r)}
    {#each row as n, i (n)}
      {@const x = 15 + ((i + 0.5) / row.length) * (w - 30)}
      {@const y = 13 + (r + 0.5) * 78}
      <circle
        cx={x}
        cy={y}
        r="25"
        fill={finished ? 'var(--teal-wash)' : n === 1 ? 'var(--brass-wash)' : 'none'}
        stroke={finished ? 'var(--teal)' : 'var(--ink)'}
        stroke-width="3"
      />
      <text
        {x}
        y={y + 8}
        text-anchor="middle"
        font-size="22"
        font-weight="700"
        class="figures"
        fill="var(--ink)">{n}</text
      >
    {/each}
  {/each}
</svg>
{#if !locked}
  <div class="flex flex-wrap gap-3">
    {#if !finished}
      <Main key=" " says="This round is done" act={() => set(done + 1)}>Round done</Main>
    {/if}
    {#if done > 0}
      <KeyButton key="x" says="Take the last round back" act={() => set(done - 1)} class="min-h-14"
        >Take back</KeyButton
      >
    {/if}
  </div>
{/if}
