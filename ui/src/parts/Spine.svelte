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
  class="relative -mx-4 flex gap-1 overflow-x-auto border-b border-rule px-4 lg:sticky lg:top-0 lg:mx-0 lg:flex-col lg:gap-0 lg:self-start lg:border-r lg:border-b-0 lg:px-0 lg:py-4 lg:pr-3"
>
  {#each job.stages as s (s.id)}
    {@const here = s.id === at}
    <a
      href={p('/jobs/:id/:stage', { params: { id: job.id, stage: s.id } })}
      aria-current={here ? 'step' : undefined}
      class="flex min-h-12 shrink-0 items-center gap-2.5 rounded px-2 no-underline {here
        ? 'border-ink bg-page font-bold lg:border-l-4'
        : ''}"
    >
      <Ring kind={s.ring} size={22} says={s.done ? 'done' : s.ring === 'dotted' ? 'open' : ''} />
      <span class="grow leading-tight whitespace-nowrap lg:whitespace-normal">
        {s.title}
        {#if s.id === job.current && job.state === 'open' && !here}<span
            class="text-xs font-normal text-brass lg:block">next</span
          >{/if}
      </span>
      <span class="key hidden font-normal text-mute lg:inline-block">{s.key}</span>
    </a>
  {/each}
</nav>
