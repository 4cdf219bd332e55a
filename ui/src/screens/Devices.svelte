<script lang="ts">
  // Who may come in: the shop's PIN and the devices that entered it.
  import { createQuery } from '@tanstack/svelte-query';
  import { atTheDoor, get, type Door, type Keep } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { queries } from '../lib/query';
  import { p } from '../lib/routes';
  import { day } from '../lib/show';

  const door = createQuery(() => ({ queryKey: ['devices'], queryFn: () => get('/api/devices') }));
  const here = createQuery(() => ({ queryKey: ['door'], queryFn: atTheDoor }));
  const kept = createQuery(() => ({ queryKey: ['keep'], queryFn: () => get('/api/keep') }));
  const ask = new Ask();
  const copying = new Ask();
  let pin = $state('');
  const own = $derived(here.data?.this_computer ?? false);

  async function set(to: string): Promise<void> {
    const v = await ask.send<Door>('/api/pin', { pin: to });
    if (v) {
      queries.setQueryData(['devices'], v);
      pin = '';
    }
  }
  async function out(id: string): Promise<void> {
    const v = await ask.send<Door>('/api/devices/{id}/out', {}, id);
    if (v) queries.setQueryData(['devices'], v);
  }
  async function backUp(): Promise<void> {
    const v = await copying.send<Keep>('/api/keep/backup', {});
    if (v) queries.setQueryData(['keep'], v);
  }
</script>

<div
  data-view="devices"
  data-ready={door.data !== undefined && here.data !== undefined}
  data-devices={door.data?.devices.length}
  class="mx-auto flex max-w-3xl flex-col gap-5 px-4 py-5"
>
  <div class="flex flex-wrap items-center gap-3">
    <h1 class="grow">Devices</h1>
    <a class="btn" href={p('/kit')}>Kit</a>
  </div>
  <p>
    This computer always has access. A phone or another computer needs the shop's PIN, and has access only
    where the application was started to listen beyond this computer (<code
      >idlehiss serve --addr 0.0.0.0:8340</code
    >).
  </p>
  <section class="flex flex-col gap-3 border-t-2 border-ink pt-3" aria-label="The PIN">
    <h2>The shop's PIN</h2>
    <p>
      {#if door.data?.pin_set}It is set. A new one signs every other device out.{:else}No PIN is set: no other
        device can sign in.{/if}
    </p>
    {#if own}
      <form
        class="flex flex-wrap items-end gap-3"
        autocomplete="off"
        onsubmit={(e) => {
          e.preventDefault();
          void set(pin.trim());
        }}
      >
        <label
          >{door.data?.pin_set ? 'A new PIN' : 'PIN'}, 4 to 12 digits
          <input
            id="pin"
            class="mt-1 field text-xl figures"
            bind:value={pin}
            inputmode="numeric"
            maxlength="12"
          /></label
        >
        <button class="btn btn-main" disabled={!pin.trim() || ask.busy}>Set the PIN</button>
        {#if door.data?.pin_set}<button type="button" class="btn" onclick={() => void set('')}
            >Remove the PIN</button
          >{/if}
      </form>
    {:else if here.data}
      <p class="text-mute">It is set, and devices are signed out, on the shop's own computer.</p>
    {/if}
    {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  </section>
  <section class="border-t-2 border-ink pt-3" aria-label="Devices that are in">
    <h2>Signed in now</h2>
    {#if door.error}<p class="py-2 text-vermilion" role="alert">{door.error.message}</p>{/if}
    {#each door.data?.devices ?? [] as d (d.id)}
      <div class="flex flex-wrap items-center gap-x-4 border-b border-rule py-2">
        <span class="grow font-bold">{d.name}</span>
        <span class="small figures">in since {day(d.since)}, last here {day(d.seen)}</span>
        {#if own}<button class="btn" onclick={() => void out(d.id)}>Sign out</button>{/if}
      </div>
    {:else}
      <p class="py-2 text-mute">No other device is signed in.</p>
    {/each}
  </section>
  <section
    class="flex flex-col gap-2 border-t-2 border-ink pt-3"
    aria-label="Backups"
    data-backups={kept.data?.backups}
  >
    <h2>Backups</h2>
    {#if kept.data}
      {@const k = kept.data}
      {#if k.folder}
        <p>
          {#if k.last}Last good one <strong class="figures">{day(k.last)}</strong>, {k.backups} kept.
          {:else}None yet.{/if}
          One is made every night, and the last {k.keep} stay.
        </p>
        <p class="break-all">In <code>{k.folder}</code></p>
        {#if k.failed}<p class="font-bold text-vermilion" role="alert">The last try failed: {k.failed}.</p>
        {:else if k.late}<p class="font-bold text-vermilion">That is more than two days ago.</p>{/if}
        {#if own}
          <div>
            <button class="btn" disabled={copying.busy} onclick={() => void backUp()}>Make one now</button>
          </div>
        {/if}
      {:else}
        <p>None are made by themselves: the application was started with <code>--keep 0</code>.</p>
      {/if}
      {#if copying.says}<p class="text-vermilion" role="alert">{copying.says}</p>{/if}
      <p class="small text-mute">
        Keep one on another disk: <code>idlehiss backup FILE</code>. Back again:
        <code>idlehiss restore FILE</code>.
      </p>
    {/if}
  </section>
</div>
