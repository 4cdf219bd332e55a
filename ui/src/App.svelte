<script lang="ts">
  import { QueryClientProvider } from '@tanstack/svelte-query';
  import { onMount } from 'svelte';
  import { Router } from 'sv-router';
  import Header from './parts/Header.svelte';
  import KeyHelp from './parts/KeyHelp.svelte';
  import LineUp from './parts/LineUp.svelte';
  import Palette from './parts/Palette.svelte';
  import Slate from './parts/Slate.svelte';
  import { onKey } from './lib/keys.svelte';
  import { listen, take } from './lib/live.svelte';
  import { onDelivered, outbox } from './lib/outbox.svelte';
  import { queries } from './lib/query';
  import './lib/routes';

  let help = $state(false);
  let palette = $state(false);
  let slate = $state(false);
  let calculator = $state('');

  onMount(() => {
    onDelivered((answer) => {
      if ('stages' in answer) {
        answer.holds.forEach(take);
        queries.setQueryData(['job', answer.id], answer);
      } else take(answer);
    });
    return listen();
  });
</script>

<svelte:window onkeydown={onKey} />

<QueryClientProvider client={queries}>
  <div class="flex min-h-screen flex-col">
    <Header help={() => (help = true)} slate={() => (slate = !slate)} palette={() => (palette = true)} />
    <LineUp />
    {#if outbox.refusal}
      <p role="alert" class="flex items-center gap-4 border-b border-vermilion bg-vermilion-wash px-4 py-2">
        <span class="grow">Not taken down: {outbox.refusal}</span>
        <button class="btn" onclick={() => (outbox.refusal = '')}>Seen</button>
      </p>
    {/if}
    <main class="@container grow {slate ? 'lg:mr-[400px]' : ''}"><Router /></main>
  </div>
  {#if slate}<Slate bind:at={calculator} close={() => (slate = false)} />{/if}
  <Palette
    bind:open={palette}
    calculate={(id) => {
      calculator = id;
      slate = true;
    }}
  />
  <KeyHelp bind:open={help} />
</QueryClientProvider>
