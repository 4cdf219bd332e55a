<script lang="ts">
  import { tick } from 'svelte';
  import { live } from '../lib/live.svelte';
  import { outbox } from '../lib/outbox.svelte';
  import { keys } from '../lib/keys.svelte';
  import { me } from '../lib/me.svelte';
  import { navigate, p, route } from '../lib/routes';
  import Ring from './Ring.svelte';

  let { help, slate, palette }: { help: () => void; slate: () => void; palette: () => void } = $props();
  const words = [
    { path: '/' as const, title: 'Bench', key: 'b' },
    { path: '/book' as const, title: 'Book', key: 'o' },
    { path: '/kit' as const, title: 'Kit', key: 'j' },
    { path: '/circuits' as const, title: 'Circuits', key: 'q' },
  ];

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
  class="flex h-14 items-center gap-1 border-b-2 border-ink px-4 sm:gap-3"
>
  <a
    href={p('/')}
    class="mr-1 flex items-center gap-2 font-bold no-underline"
    aria-label="Idle Hiss, to the bench"
  >
    <Ring kind="whole" size={28} says="Idle Hiss" />
    <span class="hidden text-lg sm:inline">Idle Hiss</span>
  </a>
  <nav class="flex min-w-0 grow gap-1 overflow-x-auto" aria-label="Main">
    {#each words as w (w.path)}
      {@const here = w.path === '/' ? route.pathname === '/' : route.pathname.startsWith(w.path)}
      <a
        href={p(w.path)}
        aria-current={here ? 'page' : undefined}
        class="flex h-11 items-center px-2 no-underline sm:px-3 {here
          ? 'border-b-4 border-ink pt-1 font-bold'
          : ''}">{w.title}</a
      >
    {/each}
  </nav>
  {#if !live.connected || outbox.waiting > 0}
    <span role="status" class="truncate rounded bg-brass-wash px-2 py-1 text-sm text-ink">
      {live.connected ? '' : 'No server. '}{outbox.waiting > 0
        ? `${outbox.waiting} kept here, to be sent`
        : 'Trying again'}
    </span>
  {/if}
  <button class="btn hidden sm:inline-flex" onclick={palette}
    >Find <span class="key text-mute">/</span></button
  >
  <button class="btn px-3 sm:px-4" onclick={slate}
    ><svg viewBox="0 0 20 20" class="size-5 sm:hidden" aria-hidden="true"
      ><path
        d="M4 2h12v16H4zM7 5h6v3H7zM7 11h1M12 11h1M7 15h1M12 15h1"
        fill="none"
        stroke="currentColor"
        stroke-width="1.8"
      /></svg
    ><span class="sr-only sm:not-sr-only">Calculators</span>
    <span class="key hidden text-mute sm:inline-block">K</span></button
  >
  <button class="btn px-3 sm:px-4" onclick={() => void start()}
    >Start <span class="key hidden text-mute sm:inline-block">N</span></button
  >
  <button class="btn px-3 sm:px-4" onclick={help} aria-label="Keys and settings"
    ><span class="text-base font-bold">?</span></button
  >
</header>
