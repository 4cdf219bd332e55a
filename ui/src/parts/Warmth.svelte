<script lang="ts">
  // The temperature of a loop that warms or cools, read beside the pressure: without it no fall
  // is judged.
  import type { Hold } from '../lib/api/client';
  import { send } from '../lib/outbox.svelte';

  let { hold }: { hold: Hold } = $props();
  let typed = $state('');
  const value = $derived(Number(typed.replace(',', '.')));
  const ready = $derived(typed.trim() !== '' && Number.isFinite(value));

  function take(e: SubmitEvent): void {
    e.preventDefault();
    if (!ready) return;
    send('/api/holds/{id}/readings', hold.id, { value, how: 'read', gauge: 100 });
    typed = '';
  }
</script>

{#if hold.state === 'holding' && (hold.warmth_unread || hold.celsius !== null)}
  <form class="flex flex-wrap items-end gap-2" onsubmit={take} data-celsius={hold.celsius ?? ''}>
    <label class="w-56"
      ><span class="small">Temperature of the loop, °C</span>
      <input
        id="celsius"
        class="field text-lg figures"
        inputmode="decimal"
        bind:value={typed}
        placeholder={hold.celsius === null ? 'such as 84' : String(hold.celsius)}
        maxlength="8"
      /></label
    >
    <button class="btn" disabled={!ready}>Read</button>
    <p class="min-w-[min(12rem,100%)] flex-1 small">
      {hold.warmth_unread
        ? 'Two readings a minute or two apart, and again every two minutes: then the fall counts.'
        : 'Taken off. Read it again every two minutes.'}
    </p>
  </form>
{/if}
