<script lang="ts">
  // Sets, changes or takes away the PIN of the owner or of the hands.
  import type { Snippet } from 'svelte';
  import { post, type Door } from '../lib/api/client';

  let {
    role,
    set,
    known,
    done,
    children,
  }: {
    role: 'owner' | 'hand';
    set: boolean;
    known: boolean; // there is an owner's PIN, which is asked for
    done: (v: Door, pin: string) => Promise<void>;
    children: Snippet;
  } = $props();
  let pin = $state('');
  let now = $state('');
  let says = $state('');
  let busy = $state(false);
  const whose = $derived(role === 'owner' ? "The owner's PIN" : "The hands' PIN");

  async function send(to: string): Promise<void> {
    busy = true;
    says = '';
    try {
      const v = await post(`/api/pins/{role}`, { pin: to, now: now.trim() }, role);
      pin = now = '';
      await done(v, to);
    } catch (x) {
      says = x instanceof Error ? x.message : String(x);
    } finally {
      busy = false;
    }
  }
</script>

<section
  class="flex flex-col gap-2 border-t-2 border-ink pt-3"
  aria-label={whose}
  data-pin={role}
  data-set={set}
>
  <h2>{whose}</h2>
  <p>
    {@render children()}
    {set ? 'It is set. A new one signs out whoever came in by the old.' : 'It is not set.'}
  </p>
  <form
    class="flex flex-wrap items-end gap-3"
    autocomplete="off"
    onsubmit={(e) => {
      e.preventDefault();
      void send(pin.trim());
    }}
  >
    <label
      >Six digits or more, or a phrase of ten letters or more
      <input
        id="pin-{role}"
        class="mt-1 field max-w-md text-xl figures"
        bind:value={pin}
        autocomplete="new-password"
        maxlength="72"
        aria-invalid={says !== ''}
      /></label
    >
    {#if known}<label
        >The owner's present PIN
        <input
          id="now-{role}"
          class="mt-1 field max-w-md text-xl"
          type="password"
          bind:value={now}
          autocomplete="current-password"
          maxlength="72"
        /></label
      >{/if}
    <button class="btn btn-main" disabled={!pin.trim() || (known && !now.trim()) || busy}>Set it</button>
    {#if set}<button type="button" class="btn" disabled={busy || !now.trim()} onclick={() => void send('')}
        >Take it away</button
      >{/if}
  </form>
  {#if says}<p class="text-vermilion" role="alert">{says}</p>{/if}
</section>
