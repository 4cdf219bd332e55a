<script lang="ts">
  // A listening tube: how much it hisses at the part in hand above the shop's own noise, and where it was loudest.
  import type { Job } from '../lib/api/client';
  import { awake } from '../lib/awake';
  import { ear } from '../lib/ear.svelte';
  import { send } from '../lib/outbox.svelte';

  let { job, part }: { job: Job; part: string } = $props();
  const title = (id: string) => job.suspects.find((s) => s.id === id)?.title ?? id;
  const heard = $derived([...ear.loudest].sort((a, b) => b[1] - a[1]));
  const first = $derived(heard[0]);
  const second = $derived(heard[1]);
  const full = 30; // dB that fill the bar
  const worth = 3; // dB from which one place is louder than another

  $effect(() => {
    ear.part = part;
  });
  $effect(() => (ear.on ? awake() : undefined));

  function answer(seen: boolean): void {
    send('/api/jobs/{id}/looks', job.id, {
      part,
      method: 'phone-ear',
      seen,
      class: seen ? 'fault' : '',
      note: '',
    });
    if (!seen) ear.loudest.delete(part);
  }
  const db = (x: number) => `${Math.round(x)} dB`;
</script>

{#if ear.stage !== 'off'}
  <section
    class="sticky bottom-0 z-20 flex flex-col gap-2 border-2 border-ink bg-page p-2"
    aria-label="The ear"
    data-ear={ear.stage}
    data-level={ear.level.toFixed(1)}
    data-part={part}
    data-loudest={first && first[1] > worth ? first[0] : ''}
    data-by={first ? (first[1] - (second?.[1] ?? 0)).toFixed(1) : ''}
    data-loud={ear.loud}
  >
    {#if ear.stage === 'asking'}
      <p>Allow the microphone where the browser asks.</p>
    {:else if ear.stage === 'learning'}
      <p class="font-bold">
        Hold the device away from the machine, and be quiet: it learns the noise of the shop.
      </p>
      <progress class="h-3 w-full" max="1" value={ear.learned} aria-label="Noise learned"></progress>
    {:else}
      {#if ear.loud}<p class="font-bold text-vermilion" role="alert">
          It is too loud here to hear a leak of this size. Stop compressor, fans and radio, or soap it
          instead.
        </p>{/if}
      <p>
        {#if part}Hold the microphone close to the <b>{title(part)}</b>.{:else}Choose a part on the map first.{/if}
      </p>
      <div class="flex items-center gap-3">
        <div class="relative h-8 grow border border-edge bg-page" aria-hidden="true">
          <div class="h-full bg-brass" style:width="{Math.min(100, (100 * ear.level) / full)}%"></div>
          {#if part && ear.loudest.get(part)}
            <div
              class="absolute top-0 h-full border-r-4 border-ink"
              style:left="calc({Math.min(99, (100 * (ear.loudest.get(part) ?? 0)) / full)}% - 4px)"
            ></div>
          {/if}
        </div>
        <span class="w-20 shrink-0 text-right text-xl font-bold figures">{db(ear.level)}</span>
      </div>
      {#if first && first[1] > worth}
        <p class="leading-tight" role="status">
          {#if second && first[1] - second[1] > worth}Louder at the <b>{title(first[0])}</b>: {db(
              first[1] - second[1],
            )}
            more than at the {title(second[0])}.{:else}Loudest at the <b>{title(first[0])}</b>: {db(first[1])} above
            the shop.{/if}
        </p>
      {/if}
      <div class="flex flex-wrap gap-2">
        <button class="btn font-bold" disabled={!part} data-heard onclick={() => answer(true)}
          >Hisses here</button
        >
        <button class="btn" disabled={!part} data-silent onclick={() => answer(false)}
          >Nothing heard here</button
        >
      </div>
    {/if}
    <div class="flex flex-wrap gap-2">
      {#if ear.stage === 'listening'}
        <button
          class="btn {ear.sounding ? 'border-2 border-ink font-bold' : ''}"
          aria-pressed={ear.sounding}
          onclick={() => (ear.sounding = !ear.sounding)}>Ticks</button
        >
        <button class="btn" onclick={() => ear.again()}>Learn the noise again</button>
      {/if}
      <button class="btn" data-stop-ear onclick={() => ear.stop()}>Microphone off</button>
    </div>
  </section>
{/if}
