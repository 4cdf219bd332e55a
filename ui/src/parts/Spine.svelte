<script lang="ts">
  // The order of work as navigation: every stage with its ring and its key.
  import type { Job } from '../lib/api/client';
  import { p } from '../lib/routes';
  import Ring from './Ring.svelte';

  let { job, at }: { job: Job; at: string } = $props();
  let nav: HTMLElement;

  // On a phone the spine is a strip; the stage in hand is kept in sight.
  $effect(() => {
    void at;
    const here = nav.querySelector<HTMLElement>('[aria-current=step]');
    if (here) nav.scrollLeft = here.offsetLeft - nav.clientWidth / 2 + here.clientWidth / 2;
  });
</script>

<nav
  bind:this={nav}
  aria-label="Order of work"
  class="relative -mx-4 flex gap-1 overflow-x-auto border-b border-rule px-4 @3xl:sticky @3xl:top-0 @3xl:mx-0 @3xl:flex-col @3xl:gap-0 @3xl:self-start @3xl:border-r @3xl:border-b-0 @3xl:px-0 @3xl:py-4 @3xl:pr-3"
>
  {#each job.stages as s (s.id)}
    {@const here = s.id === at}
    <a
      href={p('/jobs/:id/:stage', { params: { id: job.id, stage: s.id } })}
      aria-current={here ? 'step' : undefined}
      class="flex min-h-12 shrink-0 items-center gap-2.5 rounded px-2 no-underline {here
        ? 'border-ink bg-page font-bold @3xl:border-l-4'
        : ''}"
    >
      <Ring kind={s.ring} size={22} says={s.done ? 'done' : s.ring === 'dotted' ? 'open' : ''} />
      <span class="grow leading-tight whitespace-nowrap @3xl:whitespace-normal">
        {s.title}
        {#if s.id === job.current && job.state === 'open' && !here}<span
            class="text-xs font-normal text-brass @3xl:block">next</span
          >{/if}
      </span>
      {#if s.key}<span class="key hidden font-normal text-mute @3xl:inline-block">{s.key}</span>{/if}
    </a>
  {/each}
</nav>
