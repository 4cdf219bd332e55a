<script lang="ts">
  import { QueryClientProvider } from '@tanstack/svelte-query';
  import { onMount } from 'svelte';
  import { Router } from 'sv-router';
  import Away from './parts/Away.svelte';
  import Alarms from './parts/Alarms.svelte';
  import Door from './parts/Door.svelte';
  import Header from './parts/Header.svelte';
  import Kept from './parts/Kept.svelte';
  import LineUp from './parts/LineUp.svelte';
  import NotHere from './parts/NotHere.svelte';
  import Told from './parts/Told.svelte';
  import { left, onKey, onKeyFirst, onKeyUp, workedOn } from './lib/keys.svelte';
  import { forget, keep, keepPage, page, recall } from './lib/known.svelte';
  import { fetchLater, later } from './lib/later.svelte';
  import { askBench, lastHeard, listen, live, stand } from './lib/live.svelte';
  import { atTheDoor, post, type AtTheDoor } from './lib/api/client';
  import { shutOut } from './lib/door.svelte';
  import { me } from './lib/me.svelte';
  import { onDelivered, outbox } from './lib/outbox.svelte';
  import { readJob } from './lib/job';
  import { queries, refresh } from './lib/query';
  import { ready } from './lib/sound.svelte';
  import { route } from './lib/routes';

  let help = $state(false);
  let palette = $state(false);
  let slate = $state(false);
  let calculator = $state('');
  // A dialog that was asked for and is not here yet: what is typed is meant for it, and for no key of the page.
  const opening = $derived((palette || help) && !later.parts);
  $effect(() => {
    if (!palette && !help && !slate && !outbox.refusal) return;
    void fetchLater().catch(() => (palette = help = slate = false)); // the keys are the page's again
  });

  // Whether this device is let in; nothing is asked of the server before.
  let door = $state<AtTheDoor | null>(null);
  let stop: (() => void) | undefined;
  async function knock(): Promise<void> {
    try {
      door = await atTheDoor();
    } catch {
      setTimeout(() => void knock(), 1500); // the server is not there yet
      const known = door ? undefined : await recall();
      if (!known || door) return;
      door = known.door;
      stand(known.holds, known.at);
    }
    if (door.signed_in) stop ??= listen(door.stream, door.listed, keepKnown);
    else void forget();
  }
  // What is known is kept when the server is lost, when the page is put away, and now and then.
  const nowAndThen = 60_000; // ms
  function keepKnown(): void {
    if (!door?.signed_in || live.recalled || !page.kept) return;
    const holds = live.running.filter((h) => !h.summary);
    void keep(door, holds, lastHeard()).then((kept) => {
      if (kept) document.documentElement.dataset.remembered = String(Date.now());
    });
  }
  // The page itself is kept once it is all here.
  const mostSheets = 6; // that nobody has opened here
  async function keepAll(): Promise<void> {
    if (!door?.signed_in || door.borrowed) return;
    await keepPage();
    if (!page.kept) return;
    // It opens to the bench and to what is under pressure.
    const sheets = live.running.map((h) => h.job_id).slice(0, mostSheets);
    await Promise.allSettled([
      queries.ensureQueryData({ queryKey: ['bench'], queryFn: askBench }),
      ...sheets.map((id) => queries.ensureQueryData({ queryKey: ['job', id], queryFn: () => readJob(id) })),
    ]);
    keepKnown();
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
    const keeping = setInterval(keepKnown, nowAndThen);
    return () => {
      clearInterval(keeping);
      stop?.();
      quiet();
    };
  });
</script>

<svelte:window
  onkeydowncapture={(e) => (opening ? e.stopPropagation() : onKeyFirst(e))}
  onkeydown={onKey}
  onkeyup={onKeyUp}
  onclickcapture={(e) => workedOn(e.target)}
  onfocusout={(e) => left(e.target)}
  onpagehide={keepKnown}
/>
<svelte:document onvisibilitychange={() => document.hidden && keepKnown()} />

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
      <Away />
      <NotHere fetched={() => void keepAll()} />
      {#if later.parts}<later.parts.Refused />{/if}
      <main
        id="work"
        tabindex="-1"
        data-slate={slate}
        class="grow outline-none {slate ? 'lg:mr-[400px]' : ''}"
      >
        <Router />
      </main>
    </div>
    {#if later.parts}
      {#if slate}<later.parts.Slate bind:at={calculator} close={() => (slate = false)} />{/if}
      <later.parts.Palette
        bind:open={palette}
        calculate={(id) => {
          calculator = id;
          slate = true;
        }}
      />
      <later.parts.KeyHelp bind:open={help} />
    {/if}
    <Alarms />
  </QueryClientProvider>
{/if}
