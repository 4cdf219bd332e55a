<script lang="ts">
  import { QueryClientProvider } from '@tanstack/svelte-query';
  import { onMount } from 'svelte';
  import { Router } from 'sv-router';
  import Alarms from './parts/Alarms.svelte';
  import Door from './parts/Door.svelte';
  import Header from './parts/Header.svelte';
  import Kept from './parts/Kept.svelte';
  import KeyHelp from './parts/KeyHelp.svelte';
  import LineUp from './parts/LineUp.svelte';
  import NotHere from './parts/NotHere.svelte';
  import Palette from './parts/Palette.svelte';
  import Refused from './parts/Refused.svelte';
  import Slate from './parts/Slate.svelte';
  import Told from './parts/Told.svelte';
  import { left, onKey, onKeyFirst, onKeyUp, workedOn } from './lib/keys.svelte';
  import { listen, live } from './lib/live.svelte';
  import { atTheDoor, post, type AtTheDoor } from './lib/api/client';
  import { shutOut } from './lib/door.svelte';
  import { me } from './lib/me.svelte';
  import { onDelivered } from './lib/outbox.svelte';
  import { queries, refresh } from './lib/query';
  import { ready } from './lib/sound.svelte';
  import { route } from './lib/routes';

  let help = $state(false);
  let palette = $state(false);
  let slate = $state(false);
  let calculator = $state('');

  // Whether this device is let in; nothing is asked of the server before.
  let door = $state<AtTheDoor | null>(null);
  let stop: (() => void) | undefined;
  async function knock(): Promise<void> {
    try {
      door = await atTheDoor();
    } catch {
      setTimeout(() => void knock(), 1500); // the server is not there yet
      return;
    }
    if (door.signed_in) stop ??= listen(door.stream, door.listed);
  }
  $effect(() => {
    if (door) document.getElementById('shell')?.remove();
  });
  // Who uses a device that is signed in is of its session.
  const typed = 1000; // ms after which a name is typed
  $effect(() => {
    const person = me.by.trim();
    if (!door?.device || !person || person === door.person) return;
    const later = setTimeout(() => {
      void post('/api/me', { person }).catch(() => {}); // it is told with the next start
    }, typed);
    return () => clearTimeout(later);
  });
  $effect(() => {
    if (shutOut.value) {
      stop?.();
      stop = undefined;
      shutOut.value = false;
      void knock();
    }
  });

  onMount(() => {
    // What was written comes by the event stream; where there is none, it is asked for.
    onDelivered((receipt) => {
      if (!live.connected) refresh(receipt.of);
    });
    void knock();
    const quiet = ready();
    return () => {
      stop?.();
      quiet();
    };
  });
</script>

<svelte:window
  onkeydowncapture={onKeyFirst}
  onkeydown={onKey}
  onkeyup={onKeyUp}
  onclickcapture={(e) => workedOn(e.target)}
  onfocusout={(e) => left(e.target)}
/>

{#if door && !door.signed_in}
  <Door pinSet={door.pin_set} done={() => void knock()} />
{:else if door}
  <QueryClientProvider client={queries}>
    <div class="flex min-h-screen flex-col">
      {#if route.pathname !== '/wall'}
        <a
          href="#work"
          class="sr-only focus:not-sr-only focus:fixed focus:top-1 focus:left-1 focus:z-50 focus:btn"
          onclick={(e) => {
            e.preventDefault();
            document.getElementById('work')?.focus();
          }}>To the work</a
        >
        <Header help={() => (help = true)} slate={() => (slate = !slate)} palette={() => (palette = true)} />
        <LineUp />
        <Told />
      {/if}
      <Kept />
      <NotHere />
      <Refused />
      <main
        id="work"
        tabindex="-1"
        data-slate={slate}
        class="grow outline-none {slate ? 'lg:mr-[400px]' : ''}"
      >
        <Router />
      </main>
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
    <Alarms />
  </QueryClientProvider>
{/if}
