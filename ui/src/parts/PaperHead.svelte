<script lang="ts">
  // What the shop puts at the head and the foot of its papers.
  import { createQuery } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { queries } from '../lib/query';

  const head = createQuery(() => ({ queryKey: ['head'], queryFn: () => get('/api/shop/head') }));
  const ask = new Ask();
  let name = $state('');
  let lines = $state('');
  let standing = $state('');
  let closes = $state('');
  let kept = $state(false);
  $effect(() => {
    if (!head.data) return;
    name = head.data.name;
    lines = head.data.lines.join('\n');
    standing = head.data.standing;
    closes = head.data.closes ?? '';
  });

  async function keep(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    kept = false;
    const content = { name, lines: lines.split('\n').filter((l) => l.trim()), standing, closes };
    if (!(await ask.send('/api/shop/head', content))) return;
    kept = true;
    await queries.invalidateQueries({ queryKey: ['head'] });
  }
</script>

<section class="border-t-2 border-ink pt-3" aria-label="Head of the papers" data-head={kept}>
  <h2>The shop, and the head of its papers</h2>
  <form class="mt-2 grid gap-3 sm:grid-cols-2" onsubmit={keep} autocomplete="off">
    <label
      >Name of the shop <input id="head-name" class="mt-1 field" bind:value={name} maxlength="60" /></label
    >
    <label class="sm:row-span-2"
      >Address and telephone, up to 4 lines
      <textarea class="mt-1 h-28 field" bind:value={lines} maxlength="330"></textarea></label
    >
    <label
      >At the foot: licence, terms
      <input class="mt-1 field" bind:value={standing} maxlength="300" /></label
    >
    <label
      >The shop closes at
      <input class="mt-1 field figures" bind:value={closes} maxlength="5" placeholder="17:00" /></label
    >
    <div class="flex items-center gap-3">
      <button class="btn" disabled={ask.busy}>Keep</button>
      {#if kept}<span role="status">Kept.</span>{/if}
    </div>
  </form>
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
</section>
