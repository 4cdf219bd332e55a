<script lang="ts">
  // The gauge at the other end, beside the one that is judged; on a page that is carried there the near one.
  import type { Hold } from '../lib/api/client';
  import { me } from '../lib/me.svelte';

  let { hold }: { hold: Hold } = $props();
  const other = $derived(hold.far && (me.far ? hold : hold.far));
</script>

{#if hold.far && other}
  <div
    class="flex flex-wrap items-center gap-x-4 gap-y-1 border-l-8 py-1 pl-3 {me.far
      ? 'border-brass'
      : 'border-slate'}"
    data-far={hold.far.value?.text ?? ''}
    data-near={hold.value?.text ?? ''}
  >
    {#if !me.far}
      <p>
        <span class="font-bold text-slate">Far gauge</span>
        <span class="text-3xl font-bold figures">{other.value?.text ?? '–'}</span>
        {other.unit}
      </p>
      <p class="grow">{hold.far.says || `${hold.far.gauge.name}: no reading yet.`}</p>
    {:else}
      <p class="grow">This page shows the far gauge only. {hold.far.says}</p>
    {/if}
    {#if !hold.far.by_itself && hold.state !== 'ended'}
      <button class="btn" data-at-far={me.far} onclick={() => (me.far = !me.far)}
        >{me.far ? 'I am at the near gauge' : 'I am at the far gauge'}</button
      >
    {/if}
  </div>
{/if}
