<script lang="ts">
  import { tick } from 'svelte';
  import { live } from '../lib/live.svelte';
  import { outbox } from '../lib/outbox.svelte';
  import { keys } from '../lib/keys.svelte';
  import { me } from '../lib/me.svelte';
  import { navigate, p, route } from '../lib/routes';
  import { timeOfDay } from '../lib/show';
  import Lamp from './Lamp.svelte';
  import Ring from './Ring.svelte';

  let { help, slate, palette }: { help: () => void; slate: () => void; palette: () => void } = $props();
  const words = [
    { path: '/' as const, title: 'Bench', key: 'b' },
    { path: '/book' as const, title: 'Book', key: 'o' },
    { path: '/kit' as const, title: 'Kit', key: 'j' },
    { path: '/circuits' as const, title: 'Circuits', key: 'q' },
  ];

  const away = $derived(!live.connected || outbox.waiting > 0);
  // On a phone what is not a place stands in a menu.
  let menu = $state(false);
  function chosen(act: () => void): void {
    menu = false;
    act();
  }

  async function start(): Promise<void> {
    if (route.pathname !== '/') {
      await navigate('/');
      await tick();
    }
    document.getElementById('machine')?.focus();
  }

  $effect(() =>
    keys([
      { key: 'n', says: 'Start a test', where: 'Everywhere', do: () => void start() },
      { key: 'b', says: 'Bench', where: 'Everywhere', do: () => void navigate('/') },
      { key: 'o', says: 'Book', where: 'Everywhere', do: () => void navigate('/book') },
      { key: 'j', says: 'Kit', where: 'Everywhere', do: () => void navigate('/kit') },
      { key: 'q', says: 'Circuits', where: 'Everywhere', do: () => void navigate('/circuits') },
      { key: 'k', says: 'Calculators', where: 'Everywhere', do: slate },
      { key: '/', says: 'Do anything by its name', where: 'Everywhere', do: palette },
      { key: '?', says: 'Keys and settings', where: 'Everywhere', do: help },
      {
        key: 'd',
        says: 'Day or night',
        where: 'Everywhere',
        do: () => (me.theme = me.theme === 'day' ? 'night' : 'day'),
      },
    ]),
  );
</script>

<header
  data-connected={live.connected}
  data-waiting={outbox.waiting}
  class="relative flex min-h-12 items-center gap-2 border-b-2 border-ink px-2 sm:px-4 md:flex-wrap lg:min-h-14 lg:gap-3"
>
  <a
    href={p('/')}
    class="min-h-11 min-w-11 items-center justify-center gap-2 font-bold no-underline md:flex {away
      ? 'hidden'
      : 'flex'}"
    aria-label="Idle Hiss, to the bench"
  >
    <Ring kind="whole" size={28} says="Idle Hiss" />
    <span class="hidden text-lg lg:inline">Idle Hiss</span>
  </a>
  {#if away}
    <!-- On a phone it takes the place of the ring, so that nothing moves and nothing is covered. -->
    <span
      role="status"
      class="order-first flex w-[74px] shrink-0 flex-col gap-x-2 rounded bg-brass-wash px-1 py-0.5 text-[11px] leading-tight text-ink md:order-1 md:w-auto md:flex-row md:px-2 md:text-sm"
    >
      {#if !live.connected}
        <span>No server</span>
        {#if live.since}<span class="figures">since {timeOfDay(new Date(live.since).toISOString())}</span
          >{/if}
      {/if}
      {#if outbox.waiting > 0}<span>{outbox.waiting} kept here</span>{/if}
    </span>
  {/if}
  <Lamp />
  <nav class="flex min-w-0 grow gap-2 overflow-x-auto" aria-label="Main">
    {#each words as w (w.path)}
      {@const here = w.path === '/' ? route.pathname === '/' : route.pathname.startsWith(w.path)}
      <a
        href={p(w.path)}
        aria-current={here ? 'page' : undefined}
        class="flex h-11 min-w-11 items-center justify-center px-1 no-underline sm:px-2 lg:px-3 {here
          ? 'border-b-4 border-ink pt-1 font-bold'
          : ''}">{w.title}</a
      >
    {/each}
  </nav>
  <div
    id="menu"
    class="order-2 gap-2 max-md:absolute max-md:top-full max-md:right-0 max-md:z-40 max-md:w-64 max-md:flex-col max-md:border-2 max-md:border-ink max-md:bg-page max-md:p-2 md:flex lg:gap-3 {menu
      ? 'flex'
      : 'max-md:hidden'}"
  >
    <button class="btn" onclick={() => chosen(palette)}>Find <span class="key text-mute">/</span></button>
    <button class="btn" onclick={() => chosen(slate)}>Calculators <span class="key text-mute">K</span></button
    >
    <button class="btn" onclick={() => chosen(() => void start())}
      >Start <span class="key text-mute">N</span></button
    >
    <button class="btn min-w-11" onclick={() => chosen(help)} aria-label="Keys and settings"
      ><span class="md:hidden">Keys and settings</span><span class="hidden text-base font-bold md:inline"
        >?</span
      ></button
    >
  </div>
  <button
    class="btn w-13 shrink-0 px-0 md:hidden"
    aria-label="Menu"
    aria-expanded={menu}
    aria-controls="menu"
    onclick={() => (menu = !menu)}
  >
    <svg viewBox="0 0 20 20" class="size-6" aria-hidden="true"
      ><path d="M3 5h14M3 10h14M3 15h14" stroke="currentColor" stroke-width="2" /></svg
    >
  </button>
</header>
