<script lang="ts">
  // The one call of many steps: what each said, and what is still untested.
  import type { Job, Stage } from '../lib/api/client';
  import { go } from '../lib/job';
  import { ringInk, verdicts } from '../lib/show';
  import Further from '../parts/Further.svelte';
  import Foot from '../parts/Foot.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Main from '../parts/Main.svelte';
  import RigSeen from '../parts/RigSeen.svelte';
  import Ring from '../parts/Ring.svelte';
  import SeenAt from '../parts/SeenAt.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const next = $derived(job.steps.find((s) => s.id === job.call.next));
</script>

<div
  class="flex flex-wrap items-center gap-x-6 gap-y-2"
  role="status"
  data-verdict={job.call.verdict}
  data-untested={job.call.untested.length}
>
  <Ring kind={job.ring} size={148} />
  <div class="min-w-[min(14rem,100%)] flex-1">
    <p class="text-5xl font-bold {ringInk[job.ring]}">
      {job.call.seen.length ? 'Leaking' : verdicts[job.call.verdict]}
    </p>
    {#if job.call.seen.length}
      <SeenAt {job} />
    {:else}
      <p class="mt-2 text-lg">{job.call.sentence}</p>
    {/if}
    {#if job.call.untested.length}
      <p class="mt-1 font-bold">Still untested: {job.call.untested.join(', ')}.</p>
    {/if}
    {#if stage.text}<p class="mt-1 small">{stage.text}</p>{/if}
  </div>
</div>
<RigSeen {job} />
<ul class="divide-y divide-rule border-y border-rule">
  {#each job.steps as s (s.id)}
    <li>
      <button
        class="flex min-h-12 w-full items-center gap-3 py-1.5 text-left hover:bg-page"
        onclick={() => go(job, s.stage)}
      >
        <Ring kind={s.ring} size={26} says={verdicts[s.outcome.verdict]} />
        <span class="grow"
          ><b>{s.title}</b>{#if s.optional}<span class="small">, if wanted</span>{/if}
          <span class="block text-sm">{s.outcome.sentence}</span></span
        >
      </button>
    </li>
  {/each}
</ul>
<ul>
  {#each job.not_tested as n (n)}<li>{n}</li>{/each}
</ul>
<Foot>
  {#if next}
    <Main says="To the next step" act={() => go(job, next.stage)}>{next.title}</Main>
    {#if job.call.verdict === 'bad' && job.state === 'open'}
      <KeyButton key="h" says="Hunt where it leaks" act={() => go(job, 'hunt')} class="min-h-14"
        >Hunt</KeyButton
      >
    {/if}
  {:else if job.state !== 'open'}
    <Main says="To the sheet" act={() => go(job, 'write-down')}>The sheet</Main>
  {:else if job.call.verdict === 'bad' && !job.call.seen.length}
    <Main says="Hunt" act={() => go(job, 'hunt')}>Hunt</Main>
  {:else}
    <Main says="Bleed down and put right" act={() => go(job, 'put-right')}>Put right</Main>
  {/if}
</Foot>
<Further {job} />
