<script lang="ts">
  // The order of work as navigation: every stage with its ring and its key.
  import type { Job } from '../lib/api/client';
  import { p } from '../lib/routes';
  import { ringWords } from '../lib/show';
  import Ring from './Ring.svelte';

  let { job, at }: { job: Job; at: string } = $props();
  let nav: HTMLElement;
  // A ring that calls something says so, and whether its stage is done.
  function named(s: Job['stages'][number]): string {
    const called = s.ring === 'nicked' || s.ring === 'cut' ? ringWords[s.ring] : '';
    return [called, s.done ? 'done' : s.ring === 'dotted' ? 'open' : ''].filter(Boolean).join(', ');
  }

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
  class="relative -mx-4 flex gap-2 overflow-x-auto border-b border-rule px-4 two:sticky two:top-0 two:mx-0 two:flex-col two:gap-0 two:self-start two:border-r two:border-b-0 two:px-0 two:py-4 two:pr-3"
>
  {#each job.stages as s (s.id)}
    {@const here = s.id === at}
    <a
      href={p('/jobs/:id/:stage', { params: { id: job.id, stage: s.id } })}
      aria-current={here ? 'step' : undefined}
      class="flex min-h-12 shrink-0 items-center gap-2.5 rounded px-2 no-underline {here
        ? 'border-b-4 border-ink bg-page font-bold two:border-b-0 two:border-l-4'
        : ''}"
    >
      <Ring kind={s.ring} size={22} says={named(s)} />
      <span class="grow leading-tight whitespace-nowrap two:whitespace-normal">
        {s.title}
        {#if s.id === job.current && job.state === 'open' && !here}<span
            class="text-xs font-normal text-brass two:block">next</span
          >{/if}
      </span>
      {#if s.key}<span class="key hidden font-normal text-mute two:inline-block">{s.key}</span>{/if}
    </a>
  {/each}
</nav>
