<script lang="ts">
  // What the tests came to: the seal, how it is proved, and what is put back.
  import type { Job, Passages } from '../lib/api/client';
  import { go } from '../lib/job';
  import { send } from '../lib/outbox.svelte';
  import BoreBack from './BoreBack.svelte';
  import Foot from './Foot.svelte';
  import Main from './Main.svelte';
  import Ring from './Ring.svelte';

  let { job, view }: { job: Job; view: Passages } = $props();
  const chance = (p: number) =>
    p > 0.99
      ? 'almost certain (over 99 %)'
      : p > 0.95
        ? 'almost certain (over 95 %)'
        : `about ${Math.round(100 * p)} in 100`;
  const odds = (group: Passages['named'][number]) => group.reduce((sum, s) => sum + s.odds, 0);
  const acts = $derived(view.confirm.filter((a) => !a.done));
  // What the hunt proposes comes first, else what touches the likeliest of them alone.
  const first = $derived(
    acts.find((a) => a.id === job.hunt.next?.act) ??
      acts.find((a) => a.parts.length === 1 && a.parts[0] === view.left[0]?.part) ??
      acts[0],
  );
</script>

{#if view.sound}
  <section class="rounded border-2 border-ink bg-page p-3" role="status" data-bores="sound">
    <p class="text-lg font-bold text-teal">Every passage holds.</p>
    <p>Not tested by this: with oil under pressure, warm, or worked.</p>
  </section>
{:else}
  {#each view.named as group (group.map((s) => s.part).join(' '))}
    <section
      class="rounded border-2 border-ink bg-page p-3"
      role="status"
      data-bores="named"
      data-seal={group.map((s) => s.part).join(' ')}
    >
      <div class="flex flex-wrap items-center gap-3">
        <Ring kind="cut" size={56} />
        <div class="min-w-[min(12rem,100%)] flex-1">
          <p class="text-lg font-bold text-vermilion">{group.map((s) => s.title).join(', or ')}</p>
          <p>
            {group.length > 1
              ? `One of these, ${chance(odds(group))}. No test tells them apart.`
              : `It leaks, ${chance(odds(group))}.`}
          </p>
        </div>
      </div>
    </section>
  {/each}
{/if}
{#snippet prove(a: Passages['confirm'][number])}
  <section class="rounded border border-edge bg-page p-3" aria-label="Prove it" data-prove={a.id}>
    <p class="small">Prove it, in the last set-up</p>
    <p class="font-bold">{a.title}.</p>
    {#if a.needs}<p class="small">You need: {a.needs}.</p>{/if}
    {#if a.mind}<p class="border-l-4 border-vermilion pl-2">{a.mind}</p>{/if}
    <ul class="mt-2 flex flex-col gap-2">
      {#each a.answers as x (x.seen)}
        <li>
          <button
            class="btn w-full justify-start text-left"
            data-answer={x.seen}
            onclick={() => send('/api/jobs/{id}/answers', job.id, { act: a.id, seen: x.seen })}
            >{x.says}</button
          >
        </li>
      {/each}
    </ul>
  </section>
{/snippet}
{#if first && !view.sound}
  {@render prove(first)}
  {#if acts.length > 1}
    <details class="border-t border-rule pt-1">
      <summary class="flex min-h-11 items-center">Other ways to prove it ({acts.length - 1})</summary>
      <div class="flex flex-col gap-2">
        {#each acts.filter((a) => a !== first) as a (a.id)}{@render prove(a)}{/each}
      </div>
    </details>
  {/if}
{/if}
<Foot>
  {#if view.sound}
    <Main says="On to put right" act={() => go(job, 'put-right')}>Bleed down, put back</Main>
  {:else}
    <Main says="Bleed down and put right" key="p" also="Enter" act={() => go(job, 'put-right')}
      >Bleed down and mend it</Main
    >
  {/if}
</Foot>
<BoreBack {job} {view} />
