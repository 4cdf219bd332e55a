<script lang="ts">
  // A logger's token: it posts the readings of named gauges and does nothing else.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, post } from '../lib/api/client';

  let { owner, done }: { owner: boolean; done: () => void } = $props();
  const kit = createQuery(() => ({ queryKey: ['kit', 'items'], queryFn: () => get('/api/kit/items') }));
  const posting = $derived((kit.data?.items ?? []).filter((g) => g.posted));
  let name = $state('');
  let gauges = $state<string[]>([]);
  let token = $state('');
  let says = $state('');

  async function make(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    says = token = '';
    try {
      token = (await post('/api/loggers', { name: name.trim(), gauges })).token;
      name = '';
      gauges = [];
      done();
    } catch (x) {
      says = x instanceof Error ? x.message : String(x);
    }
  }
</script>

{#if owner && posting.length > 0}
  <section class="flex flex-col gap-2 border-t-2 border-ink pt-3" aria-label="A logger's token">
    <h2>A logger's token</h2>
    <p>A device that posts readings by itself gets a token for its gauges, and nothing else.</p>
    <form class="flex flex-wrap items-end gap-3" onsubmit={make} autocomplete="off">
      <label>Its name <input id="logger" class="mt-1 field" bind:value={name} maxlength="60" /></label>
      {#each posting as g (g.id)}
        <label class="flex min-h-11 items-center gap-2"
          ><input type="checkbox" class="size-11" value={g.id} bind:group={gauges} />{g.name}</label
        >
      {/each}
      <button class="btn" disabled={!name.trim() || gauges.length === 0}>Make a token</button>
    </form>
    {#if token}<p data-token>
        It is shown this once: <code class="break-all select-all">{token}</code>
      </p>{/if}
    {#if says}<p class="text-vermilion" role="alert">{says}</p>{/if}
  </section>
{/if}
