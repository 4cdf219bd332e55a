<script lang="ts">
  // A device that is not let in yet: the shop's PIN, and a name by which it can be
  // signed out again.
  import { enter } from '../lib/api/client';
  import { me } from '../lib/me.svelte';
  import Ring from './Ring.svelte';

  let { pinSet, done }: { pinSet: boolean; done: () => void } = $props();
  let pin = $state('');
  let name = $state('');
  let person = $state(me.by);
  let borrowed = $state(false);
  let says = $state('');
  let busy = $state(false);

  async function knock(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    busy = true;
    says = '';
    try {
      await enter({ pin: pin.trim(), name: name.trim(), person: person.trim(), borrowed });
      me.by = person.trim();
      done();
    } catch (x) {
      says = x instanceof Error ? x.message : String(x);
    } finally {
      busy = false;
    }
  }
</script>

<main data-view="door" data-ready="true" class="mx-auto flex max-w-sm flex-col gap-4 px-4 py-10">
  <div class="flex items-center gap-3">
    <Ring kind="whole" size={44} />
    <h1>Idle Hiss</h1>
  </div>
  {#if pinSet}
    <form class="flex flex-col gap-4" onsubmit={knock} autocomplete="off">
      <label
        >The shop's PIN or phrase
        <input
          id="pin"
          class="mt-1 field text-3xl figures"
          bind:value={pin}
          type="password"
          autocomplete="current-password"
          maxlength="72"
        /></label
      >
      <label
        >A name for this device
        <input
          id="name"
          class="mt-1 field"
          bind:value={name}
          placeholder="Ilse's phone"
          maxlength="60"
        /></label
      >
      <label
        >Your first name
        <input id="person" class="mt-1 field" bind:value={person} maxlength="60" /></label
      >
      <label class="flex min-h-11 items-center gap-3"
        ><input type="checkbox" class="size-11" bind:checked={borrowed} />A borrowed phone: out again after 12
        hours</label
      >
      {#if says}<p class="text-vermilion" role="alert">{says}</p>{/if}
      <button class="btn min-h-14 btn-main text-lg" disabled={!pin.trim() || !name.trim() || busy}
        >Come in</button
      >
    </form>
  {:else}
    <p>No PIN is set. Set one on the shop's own computer, under Kit, Devices.</p>
  {/if}
</main>
