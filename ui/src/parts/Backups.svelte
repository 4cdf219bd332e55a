<script lang="ts">
  // When the last good backup was made, and where they are.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Keep } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { queries } from '../lib/query';
  import { dayTime } from '../lib/show';

  let { owner }: { owner: boolean } = $props();
  const kept = createQuery(() => ({ queryKey: ['keep'], queryFn: () => get('/api/keep') }));
  const ask = new Ask();

  async function make(): Promise<void> {
    const v = await ask.send<Keep>('/api/keep/backup', {});
    if (v) queries.setQueryData(['keep'], v);
  }
</script>

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
        {#if k.last}Last good one <strong class="figures">{dayTime(k.last)}</strong>; {k.backups}
          kept.
        {:else}None yet.{/if}
        One is made every night, and the last {k.keep} stay.
      </p>
      <p class="break-all">In <code>{k.folder}</code></p>
      {#if k.failed}<p class="font-bold text-vermilion" role="alert">The last try failed: {k.failed}.</p>
      {:else if k.late}<p class="font-bold text-vermilion">That is more than two days ago.</p>{/if}
      {#if owner}
        <div>
          <button class="btn" disabled={ask.busy} onclick={() => void make()}>Make one now</button>
        </div>
      {/if}
    {:else}
      <p>None are made by themselves: the application was started with <code>--keep 0</code>.</p>
    {/if}
    {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
    <p class="small text-mute">
      Keep one on another disk: <code>idlehiss backup FILE</code>. Back again:
      <code>idlehiss restore FILE</code>.
    </p>
  {/if}
</section>
