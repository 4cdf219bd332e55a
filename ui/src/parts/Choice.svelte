<script lang="ts">
  // A word in a sentence that opens its alternatives, each with its reason.
  import { Select } from 'bits-ui';
  import Chosen from './Chosen.svelte';
  import { workedOn } from '../lib/keys.svelte';

  let {
    label,
    options,
    value,
    choose,
  }: {
    label: string;
    options: { id: string; title: string; why: string }[];
    value: string;
    choose: (id: string) => void;
  } = $props();
  const now = $derived(options.find((o) => o.id === value)?.title ?? value);
  let trigger = $state<HTMLElement | null>(null);
  const items = $derived(options.map((o) => ({ value: o.id, label: o.title })));
</script>

<Select.Root
  type="single"
  {value}
  {items}
  onValueChange={(v) => v && choose(v)}
  onOpenChange={(open) => !open && workedOn(trigger)}
>
  <Select.Trigger bind:ref={trigger} aria-label="{label}: {now}" class="w-full text-left">
    <Chosen {label} {now} />
  </Select.Trigger>
  <Select.Portal>
    <Select.Content
      aria-label={label}
      tabindex={0}
      sideOffset={2}
      class="z-20 max-h-[min(60vh,var(--bits-select-content-available-height))] w-(--bits-select-anchor-width) overflow-y-auto rounded border-2 border-ink bg-page p-1"
    >
      <Select.Viewport class="overflow-visible!">
        {#each options as o (o.id)}
          <Select.Item
            value={o.id}
            label={o.title}
            class="min-h-11 rounded px-3 py-1.5 data-highlighted:bg-brass-wash data-highlighted:outline-2 data-highlighted:-outline-offset-2 data-highlighted:outline-ink data-selected:font-bold"
          >
            {o.title}{#if o.id === value}<span class="float-right pl-2" aria-hidden="true">✓</span>{/if}
            {#if o.why}<span class="block small font-normal">{o.why}</span>{/if}
          </Select.Item>
        {/each}
      </Select.Viewport>
    </Select.Content>
  </Select.Portal>
</Select.Root>
