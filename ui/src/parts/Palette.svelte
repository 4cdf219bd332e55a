<script lang="ts">
  // Everything that can be done now, by its name: what the keys do, the slate's
  // calculators, and the jobs in hand.
  import { createQuery } from '@tanstack/svelte-query';
  import { Command, Dialog } from 'bits-ui';
  import { get } from '../lib/api/client';
  import { bindings, keyName, type Binding } from '../lib/keys.svelte';
  import { askBench } from '../lib/live.svelte';
  import { navigate } from '../lib/routes';

  let { open = $bindable(), calculate }: { open: boolean; calculate: (id: string) => void } = $props();
  const slate = createQuery(() => ({
    queryKey: ['slate'],
    queryFn: () => get('/api/slate'),
    staleTime: Infinity,
    enabled: open,
  }));
  const bench = createQuery(() => ({ queryKey: ['bench'], queryFn: askBench, enabled: open }));
  // One line for each thing that can be done, though two keys may do it.
  const actions = $derived.by(() => {
    const seen: Record<string, Binding> = {};
    for (const b of bindings()) {
      if (b.key === '/' || (b.when && !b.when())) continue;
      seen[b.says] = b;
    }
    return Object.values(seen).reverse();
  });

  // What was chosen is done once the dialog has gone, so that it may move the focus.
  let chosen: (() => void) | undefined;

  function run(act: () => void): void {
    chosen = act;
    open = false;
  }

  function gone(e: Event): void {
    if (!chosen) return;
    e.preventDefault();
    chosen();
    chosen = undefined;
  }
</script>

{#snippet item(value: string, says: string, key: string, act: () => void)}
  <Command.Item
    {value}
    onSelect={() => run(act)}
    class="flex min-h-11 items-center justify-between gap-3 rounded px-3 data-selected:bg-brass-wash"
  >
    <span>{says}</span>
    {#if key}<span class="key text-mute">{key}</span>{/if}
  </Command.Item>
{/snippet}

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/50" />
    <Dialog.Content
      data-dialog="palette"
      data-ready={slate.data !== undefined}
      onCloseAutoFocus={gone}
      class="fixed top-[10vh] left-1/2 z-50 w-[min(620px,94vw)] -translate-x-1/2 rounded border-2 border-ink bg-page"
    >
      <Dialog.Title class="sr-only">Do anything by its name</Dialog.Title>
      <Dialog.Description class="sr-only">Type a part of what you want to do, then Enter.</Dialog.Description>
      <Command.Root label="Do anything by its name">
        <Command.Input
          class="h-14 w-full border-b-2 border-ink bg-page px-4 text-lg outline-none placeholder:text-mute"
          placeholder="What is to be done?"
          autofocus
        />
        <Command.List tabindex={0} aria-label="What can be done" class="max-h-[60vh] overflow-y-auto p-2">
          <Command.Viewport>
            <Command.Empty class="p-3 text-mute">Nothing here is called that.</Command.Empty>
            <Command.Group>
              <Command.GroupHeading class="px-3 pt-2 small">Now</Command.GroupHeading>
              <Command.GroupItems>
                {#each actions as b (b.says)}
                  {@render item(`${b.says} ${b.where}`, b.says, keyName(b.key), () => b.do(false))}
                {/each}
              </Command.GroupItems>
            </Command.Group>
            {#if bench.data?.next.length}
              <Command.Group>
                <Command.GroupHeading class="px-3 pt-2 small">Jobs in hand</Command.GroupHeading>
                <Command.GroupItems>
                  {#each bench.data.next as n (n.job_id)}
                    {@render item(
                      `job ${n.machine} ${n.job_id}`,
                      `${n.machine}: ${n.text}`,
                      '',
                      () => void navigate('/jobs/:id/:stage', { params: { id: n.job_id, stage: n.stage } }),
                    )}
                  {/each}
                </Command.GroupItems>
              </Command.Group>
            {/if}
            <Command.Group>
              <Command.GroupHeading class="px-3 pt-2 small">Calculators</Command.GroupHeading>
              <Command.GroupItems>
                {#each slate.data ?? [] as c (c.id)}
                  {@render item(`calculator ${c.title} ${c.id}`, c.title, '', () => calculate(c.id))}
                {/each}
              </Command.GroupItems>
            </Command.Group>
          </Command.Viewport>
        </Command.List>
      </Command.Root>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
