<script lang="ts">
  // A link by which a calendar reads what is due. Whoever has it may read: it is secret, and a new
  // one ends the old.
  import { Ask } from '../lib/ask.svelte';

  const ask = new Ask();
  let link = $state('');

  async function make(): Promise<void> {
    const made = await ask.send<{ path: string }>('/api/shop/calendar', {});
    if (made) link = location.origin + made.path;
  }
</script>

<section class="border-t-2 border-ink pt-3" aria-label="Calendar" data-feed={link !== ''}>
  <h2>Calendar of what is due</h2>
  <p class="mt-1">
    Looks, loans and borrowed kit for a calendar on the shop's network. Whoever has the link can read them
    without a PIN. A new link ends the one before it.
  </p>
  {#if link}
    <p class="mt-2">
      <label
        ><span class="small">Subscribe to this address in the calendar</span>
        <input class="field figures" readonly value={link} onfocus={(e) => e.currentTarget.select()} /></label
      >
    </p>
  {/if}
  <div class="mt-2">
    <button class="btn" disabled={ask.busy} onclick={() => void make()}>Make a new link</button>
  </div>
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
</section>
