<script lang="ts">
  // A word in a sentence that opens its alternatives, each with its reason.
  import { RadioGroup } from 'bits-ui';

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
  let open = $state(false);
  const now = $derived(options.find((o) => o.id === value)?.title ?? value);
</script>

<div class="border-b border-rule">
  <button
    class="flex min-h-11 w-full items-center gap-3 text-left"
    aria-expanded={open}
    onclick={() => (open = !open)}
  >
    <span class="w-24 shrink-0 text-mute">{label}</span>
    <span class="grow font-bold">{now}</span>
    <span class="small underline">{open ? 'close' : 'change'}</span>
  </button>
  {#if open}
    <RadioGroup.Root
      {value}
      onValueChange={(v) => {
        choose(v);
        open = false;
      }}
      aria-label={label}
      class="mb-2 flex flex-col gap-1 sm:pl-24"
    >
      {#each options as o (o.id)}
        <RadioGroup.Item
          value={o.id}
          class="min-h-11 rounded border border-edge bg-page px-3 py-1.5 text-left data-[state=checked]:border-ink data-[state=checked]:bg-brass-wash"
        >
          <b>{o.title}</b>
          {#if o.why}<span class="block small">{o.why}</span>{/if}
        </RadioGroup.Item>
      {/each}
    </RadioGroup.Root>
  {/if}
</div>
