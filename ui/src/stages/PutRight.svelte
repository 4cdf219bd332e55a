<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import type { Job, Stage } from '../lib/api/client';
  import { readPassages } from '../lib/bores';
  import { event, onward } from '../lib/job';
  import { live } from '../lib/live.svelte';
  import BoreBack from '../parts/BoreBack.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Mend from '../parts/Mend.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Ticks from '../parts/Ticks.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const bores = createQuery(() => ({
    queryKey: ['job', job.id, 'passages'],
    queryFn: () => readPassages(job.id),
    enabled: job.bores,
  }));
  const running = $derived(live.of(job.id).filter((h) => h.state !== 'ended'));
</script>

{#each running as h (h.id)}
  <div data-pressed class="flex flex-wrap items-center justify-between gap-4 rounded border-2 border-ink p-3">
    <p class="text-lg">
      <span class="text-4xl font-bold figures">{h.value?.text ?? '–'}</span>
      {h.unit} still in there{h.purpose === 'rig proof' ? ', in the rig' : ''}.
    </p>
  </div>
{:else}
  <p data-let-down>No hold of this job is under pressure any more. See it at the gauge.</p>
{/each}
<Ticks {job} items={stage.ticks} shut={running.length > 0} />
{#if bores.data && !running.length}<BoreBack {job} view={bores.data} open />{/if}
<Mend {job} />
<Foot>
  {#each running as h (h.id)}
    <KeyButton
      key="z"
      says="Bleed the pressure down"
      act={() => event(h.id, 'release')}
      class="min-h-14 btn-main px-6 text-lg">Bleed down</KeyButton
    >
  {:else}
    <Main says="On to write it down" act={() => onward(job, stage.id)}>Write it down</Main>
  {/each}
</Foot>
