<script lang="ts">
  // What a mark can mean, likeliest first, side by side in every unit.
  import { RadioGroup } from 'bits-ui';
  import type { Mark } from '../lib/api/client';

  let { mark, chosen, choose }: { mark: Mark; chosen: number; choose?: (i: number) => void } = $props();
  const columns = 'grid grid-cols-[repeat(auto-fit,minmax(min(7rem,100%),1fr))] items-center gap-x-3';
  const order = ['kPa', 'psi', 'bar', 'kgf/cm²'];
</script>

{#snippet row(i: number)}
  {@const r = mark.readings[i]!}
  <span class="whitespace-nowrap">in <b>{r.unit}</b></span>
  {#each order as u (u)}<span class="whitespace-nowrap figures {u === r.unit ? 'font-bold' : ''}"
      >{r.equivalents[u]}</span
    >{/each}
  {#if r.doubt}<span class="col-span-full text-sm text-vermilion">{r.doubt}</span>{/if}
{/snippet}

{#if choose && mark.readings.length > 1}
  <RadioGroup.Root
    value={String(chosen)}
    onValueChange={(v) => choose(Number(v))}
    aria-label="Which reading of the mark"
    class="flex flex-col"
  >
    {#each mark.readings as r, i (r.unit)}
      <RadioGroup.Item
        value={String(i)}
        class="{columns} min-h-11 border-b border-rule px-2 text-left data-[state=checked]:bg-brass-wash data-[state=checked]:font-bold"
      >
        {@render row(i)}
      </RadioGroup.Item>
    {/each}
  </RadioGroup.Root>
{:else}
  {#each mark.readings.slice(0, choose ? 1 : 2) as r, i (r.unit)}
    <p class="{columns} px-2 {i > 0 ? 'text-sm text-mute' : ''}">
      {#if i > 0}<span class="sr-only">or</span>{/if}
      {@render row(i)}
    </p>
  {/each}
{/if}
{#if mark.doubt}<p class="px-2 text-sm text-vermilion">{mark.doubt}</p>{/if}
