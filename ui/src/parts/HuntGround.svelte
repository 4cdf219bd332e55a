<script lang="ts">
  // What the hunt takes for granted: what is off already, what this shop has, how loud it is, and
  // what was worked on last.
  import type { Job } from '../lib/api/client';
  import { send } from '../lib/outbox.svelte';

  let { job }: { job: Job } = $props();
  const ground = $derived(job.hunt.ground);
  const tools = $derived(job.hunt.methods.filter((m) => m.tool));
  const flip = (list: string[] | null, id: string) =>
    (list ?? []).includes(id) ? (list ?? []).filter((x) => x !== id) : [...(list ?? []), id];
  function put(change: Partial<Job['hunt']['ground']>): void {
    send('/api/jobs/{id}/ground', job.id, {
      open: ground.open ?? [],
      tools: ground.tools ?? [],
      worked_on: ground.worked_on ?? [],
      noisy: ground.noisy,
      ...change,
    });
  }
  let worked = $state('');
</script>

{#snippet choice(id: string, title: string, on: boolean, act: () => void)}
  <li>
    <button
      class="btn {on ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
      aria-pressed={on}
      data-ground={id}
      onclick={act}>{title}</button
    >
  </li>
{/snippet}

<details class="border-t border-rule pt-1">
  <summary class="flex min-h-11 items-center">Covers off, tools here, noise</summary>
  {#if job.hunt.covers.length}
    <p class="small">Off already</p>
    <ul class="flex flex-wrap gap-2 pb-2">
      {#each job.hunt.covers as c (c.id)}
        {@render choice(c.id, c.title, (ground.open ?? []).includes(c.id), () =>
          put({ open: flip(ground.open, c.id) }),
        )}
      {/each}
    </ul>
  {/if}
  <p class="small">This shop has</p>
  <ul class="flex flex-wrap gap-2 pb-2">
    {#each tools as m (m.id)}
      {@render choice(m.id, m.title, (ground.tools ?? []).includes(m.id), () =>
        put({ tools: flip(ground.tools, m.id) }),
      )}
    {/each}
    {@render choice('noisy', 'It is loud here', ground.noisy, () => put({ noisy: !ground.noisy }))}
  </ul>
  <label class="block max-w-md pb-2"
    ><span class="small">Worked on last</span>
    <select
      class="field"
      bind:value={worked}
      onchange={() => {
        if (worked) put({ worked_on: flip(ground.worked_on, worked) });
        worked = '';
      }}
    >
      <option value="">choose a part…</option>
      {#each job.suspects.filter((s) => s.n >= 0) as s (s.id)}<option value={s.id}
          >{(ground.worked_on ?? []).includes(s.id) ? 'not after all: ' : ''}{s.title}</option
        >{/each}
    </select></label
  >
</details>
