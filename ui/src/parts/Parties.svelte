<script lang="ts">
  // Whose machine it is, its plate and what its meter shows: the head of the paper. The next
  // job on the machine knows the first three.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';

  let { job }: { job: Job } = $props();
  const ask = new Ask();
  let open = $state(false);
  let typed = $state({ owner: '', contact: '', plate: '', meter: '' });
  const fields = [
    { id: 'owner', says: 'Customer', wide: 'w-56', most: 80, such: 'Packing shed, Anna' },
    { id: 'contact', says: 'Reached by', wide: 'w-44', most: 80, such: '555 0142' },
    { id: 'plate', says: 'Plate or serial no.', wide: 'w-40', most: 40, such: 'HO 47' },
    { id: 'meter', says: 'Meter', wide: 'w-32', most: 40, such: '1,240 h' },
  ] as const;
  const said = $derived(
    fields
      .map((f) => job.parties[f.id])
      .filter((x) => x)
      .join(', '),
  );

  function opened(now: boolean): void {
    if (now) typed = { ...job.parties };
    open = now;
  }
  async function keep(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const j = await ask.sheet('/api/jobs/{id}/parties', typed, job.id);
    if (!j) return;
    keepJob(j);
    open = false;
  }
</script>

<details class="border-b border-rule pb-1" bind:open={() => open, opened} data-parties={said !== ''}>
  <summary class="flex min-h-11 items-center"
    >{said || 'Customer, plate and meter: for the head of the paper'}</summary
  >
  <form onsubmit={keep} class="mt-1 flex flex-wrap items-end gap-3" autocomplete="off">
    {#each fields as f (f.id)}
      <label class="{f.wide} max-w-full"
        >{f.says}
        <input
          id="parties-{f.id}"
          class="mt-1 field"
          bind:value={typed[f.id]}
          maxlength={f.most}
          placeholder={f.such}
        /></label
      >
    {/each}
    <button class="btn" disabled={ask.busy || job.state !== 'open'}>Keep</button>
  </form>
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
</details>
