<script lang="ts">
  // Things to tick; C ticks the next one that is open.
  import { Checkbox } from 'bits-ui';
  import type { Job, Tick } from '../lib/api/client';
  import { tick, ticksOf } from '../lib/job';
  import { keys } from '../lib/keys.svelte';

  let { job, items: known, shut = false }: { job: Job; items: Tick[]; shut?: boolean } = $props();
  const locked = $derived(shut || job.state !== 'open');
  const items = $derived(ticksOf(job, known));
  const set = (id: string, on: boolean) => tick(job, id, on);
  const next = $derived(items.find((t) => !t.ticked));

  $effect(() =>
    keys([
      {
        key: 'c',
        says: 'Tick the next item',
        where: 'This stage',
        do: () => next && set(next.id, true),
        when: () => !locked && next !== undefined,
      },
    ]),
  );
</script>

<ul class="divide-y divide-rule border-y border-rule">
  {#each items as t (t.id)}
    <li>
      <label class="flex min-h-12 items-center gap-4 py-1.5">
        <Checkbox.Root
          checked={t.ticked}
          disabled={locked}
          onCheckedChange={(on) => set(t.id, on === true)}
          aria-label={t.text}
          class="grid size-8 shrink-0 place-items-center rounded border-2 border-edge bg-page data-[state=checked]:border-teal"
        >
          {#snippet children({ checked })}
            {#if checked}
              <svg viewBox="0 0 20 20" class="size-6 text-teal" aria-hidden="true"
                ><path d="M3 11 l5 5 L17 4" fill="none" stroke="currentColor" stroke-width="3" /></svg
              >
            {/if}
          {/snippet}
        </Checkbox.Root>
        <span class="grow"
          >{t.text}{#if t.must}<span class="small">, must</span>{/if}</span
        >
        {#if !locked && next === t}<span class="key text-mute">C</span>{/if}
      </label>
    </li>
  {/each}
</ul>
