<script lang="ts">
  // A photo of a place: shrunk here, so that it is small and carries no position.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';
  import { shrink } from '../lib/shrink';

  let { job, part }: { job: Job; part: string } = $props();
  const ask = new Ask();
  let wrong = $state('');
  const photos = $derived(job.photos.filter((p) => p.part === part));

  async function take(input: HTMLInputElement): Promise<void> {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    wrong = '';
    const jpeg = await shrink(file).catch(() => '');
    if (!jpeg) {
      wrong = `${file.name} cannot be shown as a picture. Take a photo, or choose a JPEG or PNG file.`;
      return;
    }
    const j = await ask.sheet('/api/jobs/{id}/photos', { part, jpeg }, job.id);
    if (j) keepJob(j);
  }
</script>

<div class="flex flex-wrap items-center gap-2 py-1" data-photos={photos.length}>
  {#each photos as p (p.id)}
    <a href="/api/photos/{p.id}" target="_blank" rel="noreferrer"
      ><img src="/api/photos/{p.id}" alt={p.says} class="h-24 border border-rule object-cover" /></a
    >
  {/each}
  {#if job.state === 'open'}
    <label class="btn px-3 focus-within:outline-3 focus-within:outline-offset-2 focus-within:outline-brass">
      {ask.busy ? 'Keeping it…' : 'Take a photo'}
      <input
        class="sr-only"
        type="file"
        accept="image/*"
        capture="environment"
        onchange={(e) => void take(e.currentTarget)}
      />
    </label>
  {/if}
  {#if wrong || ask.says}<p class="font-bold text-vermilion" role="alert">{wrong || ask.says}</p>{/if}
</div>
