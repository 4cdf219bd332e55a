<script lang="ts">
  // What the server did not take, said at the control that was pressed; where that is gone, above the work.
  import { Popover } from 'bits-ui';
  import { outbox } from '../lib/outbox.svelte';

  const at = $derived(outbox.refusal && !outbox.placed ? outbox.at : undefined);
</script>

{#snippet says()}
  <p role="alert" class="min-w-0 grow" data-refused={at ? 'here' : 'above'}>Not written: {outbox.refusal}</p>
  <button class="btn shrink-0" onclick={() => outbox.seen()}>Close</button>
{/snippet}

{#if at instanceof HTMLElement}
  <Popover.Root open onOpenChange={(open) => !open && outbox.seen()}>
    <Popover.Portal>
      <Popover.Content
        customAnchor={at}
        trapFocus={false}
        preventScroll={false}
        interactOutsideBehavior="ignore"
        onOpenAutoFocus={(e) => e.preventDefault()}
        onCloseAutoFocus={(e) => e.preventDefault()}
        aria-label="Not written"
        sideOffset={4}
        collisionPadding={8}
        class="z-50 flex w-88 max-w-[calc(100vw-16px)] items-center gap-3 rounded border-2 border-vermilion bg-vermilion-wash p-3"
      >
        {@render says()}
      </Popover.Content>
    </Popover.Portal>
  </Popover.Root>
{:else if outbox.refusal && !outbox.placed}
  <div
    class="sticky top-0 z-20 flex items-center gap-4 border-b border-vermilion bg-vermilion-wash px-4 py-2"
  >
    {@render says()}
  </div>
{/if}
