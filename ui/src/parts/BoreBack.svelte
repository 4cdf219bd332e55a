<script lang="ts">
  // What is to be put back, so that plugs, levers and valves stand as they were found: each tapped when it is done.
  import type { Job, Passages } from '../lib/api/client';
  import { change, left } from '../lib/bores';

  let { job, view, open = false }: { job: Job; view: Passages; open?: boolean } = $props();
  const todo = $derived(left(job, view, view.back));
</script>

{#if view.back.length}
  <details class="border-t border-rule pt-1" {open} data-back-left={todo.length}>
    <summary class="flex min-h-11 items-center">Leave it as it was found: {todo.length} to put back</summary>
    <ol class="divide-y divide-rule border-y border-rule">
      {#each view.back as x, i (x.does + x.at)}
        {@const done = !todo.includes(x)}
        <li>
          <button
            class="flex min-h-12 w-full items-center gap-3 py-1 text-left"
            role="checkbox"
            aria-checked={done}
            data-back={x.at}
            disabled={done || job.state !== 'open'}
            onclick={() => change(job, x)}
          >
            <span
              class="grid size-8 shrink-0 place-items-center rounded border-2 bg-page {done
                ? 'border-teal'
                : 'border-edge'}"><span class="small">{i + 1}</span></span
            >
            <span class="grow {done ? 'text-mute' : ''}">{x.says}</span>
          </button>
        </li>
      {/each}
    </ol>
  </details>
{/if}
