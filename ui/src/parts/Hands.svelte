<script lang="ts">
  // Whose job it is to do, to pass it on, and what somebody else is asked about it: a question goes
  // with the job's bundle, and the answer comes back the same way.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';

  let { job }: { job: Job } = $props();
  const ask = new Ask();
  let open = $state(false);
  let to = $state('');
  let note = $state('');
  let whom = $state('');
  let question = $state('');
  let answers = $state<Record<string, string>>({});
  const answered = $derived(
    new Set(job.facts.filter((f) => f.subject === 'answer' && !f.superseded).map((f) => f.about)),
  );
  const questions = $derived(job.facts.filter((f) => f.subject === 'question' && !f.superseded));
  const waiting = $derived(questions.filter((f) => !answered.has(f.about)));

  async function pass(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const j = await ask.sheet('/api/jobs/{id}/passed', { to, note }, job.id);
    if (!j) return;
    keepJob(j);
    to = note = '';
    open = false;
  }
  async function put(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const j = await ask.sheet('/api/jobs/{id}/questions', { to: whom, text: question }, job.id);
    if (!j) return;
    keepJob(j);
    whom = question = '';
  }
  async function answer(e: SubmitEvent, id: string): Promise<void> {
    e.preventDefault();
    const j = await ask.sheet('/api/jobs/{id}/opinions', { question: id, text: answers[id] ?? '' }, job.id);
    if (!j) return;
    keepJob(j);
    answers[id] = '';
  }
</script>

<details
  class="mt-2 border-b border-rule pb-1"
  bind:open
  data-in-hands={job.hands}
  data-questions={waiting.length}
>
  <summary class="flex min-h-11 items-center"
    >In the hands of {job.hands}{waiting.length
      ? `; ${waiting.length === 1 ? 'a question waits' : `${waiting.length} questions wait`}`
      : ''}</summary
  >
  {#if open}
    {#if job.state === 'open'}
      <form class="mt-1 flex flex-col gap-2" onsubmit={pass} autocomplete="off" aria-label="Pass it on">
        <div class="flex flex-wrap items-end gap-2">
          <label class="min-w-32 grow"
            >Pass it to <input
              class="mt-1 field"
              bind:value={to}
              maxlength="60"
              placeholder="first name"
            /></label
          >
          <button class="btn" disabled={ask.busy}>Pass it on</button>
        </div>
        <label
          ><span class="small">What to know</span>
          <input
            class="field"
            bind:value={note}
            maxlength="300"
            placeholder="under pressure; look at the seam at 7"
          /></label
        >
      </form>
    {/if}
    {#each waiting as f (f.id)}
      <form
        class="mt-3 flex flex-col gap-2 border-t border-rule pt-2"
        onsubmit={(e) => void answer(e, f.about)}
        autocomplete="off"
        aria-label="Answer"
      >
        <p><b>{f.sentence}</b> <span class="small">{f.by}</span></p>
        <label
          ><span class="small">Answer</span>
          <input
            class="field"
            value={answers[f.about] ?? ''}
            oninput={(e) => (answers[f.about] = e.currentTarget.value)}
            maxlength="500"
          /></label
        >
        <div class="flex flex-wrap gap-2">
          <button class="btn" disabled={ask.busy}>Answer</button>
          <a class="btn" href="/api/bundle?job={encodeURIComponent(job.id)}" download>Bundle to send</a>
        </div>
      </form>
    {/each}
    <form
      class="mt-3 flex flex-col gap-2 border-t border-rule pt-2"
      onsubmit={put}
      autocomplete="off"
      aria-label="Ask somebody else"
    >
      <label
        ><span class="small">A second opinion: the question</span>
        <input
          class="field"
          bind:value={question}
          maxlength="500"
          placeholder="is this weep worth a new core?"
        /></label
      >
      <div class="flex flex-wrap items-end gap-2">
        <label class="min-w-32 grow"
          ><span class="small">Who is asked</span>
          <input class="field" bind:value={whom} maxlength="80" placeholder="Upper Valley workshop" /></label
        >
        <button class="btn" disabled={ask.busy}>Ask</button>
      </div>
      <p class="small">It goes with the job's bundle; they answer on the sheet and send the bundle back.</p>
    </form>
    {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  {/if}
</details>
