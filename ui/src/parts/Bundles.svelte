<script lang="ts">
  // The whole book as one open file, and such a file of another shop taken over: first what would come of it.
  import { sendBundle, type Takeover } from '../lib/api/client';
  import { me } from '../lib/me.svelte';
  import { queries } from '../lib/query';
  import { p } from '../lib/routes';
  import { day, dayTime } from '../lib/show';

  let file = $state<File>();
  let found = $state<Takeover>();
  let busy = $state(false);
  let says = $state('');
  const of = { job: 'One job', machine: 'A machine', book: 'A whole book' } as const;

  async function ask(take: boolean): Promise<void> {
    if (!file || busy) return;
    busy = true;
    says = '';
    try {
      found = await sendBundle(file, take, me.by);
      if (found.taken) await queries.invalidateQueries();
    } catch (e) {
      says = e instanceof Error ? e.message : String(e);
    } finally {
      busy = false;
    }
  }
  function choose(f: File | undefined): void {
    if (!f) return;
    file = f;
    found = undefined;
    void ask(false);
  }
  const count = (n: number, one: string, many = one + 's') => `${n} ${n === 1 ? one : many}`;
</script>

<section
  class="flex flex-col gap-2 border-t-2 border-ink pt-3"
  aria-label="Bundles"
  data-bundle={says ? 'refused' : found ? (found.taken ? 'taken' : 'looked') : file ? 'reading' : 'none'}
>
  <h2>Bundles</h2>
  <p>
    A bundle is one open file for another shop: jobs with their holds, readings and photos, their machines and
    the kit. One job's or one machine's is under <em>Write down</em> on its sheet.
  </p>
  <div class="flex flex-wrap gap-3">
    <a class="btn" href="/api/bundle" download>The whole book as a bundle</a>
    <label class="btn focus-within:outline-3 focus-within:outline-offset-2 focus-within:outline-brass">
      Open a bundle
      <input
        class="sr-only"
        type="file"
        accept=".zip,application/zip"
        onchange={(e) => {
          choose(e.currentTarget.files?.[0]);
          e.currentTarget.value = '';
        }}
      />
    </label>
  </div>
  {#if busy && !found}<p class="text-mute">Reading {file?.name}…</p>{/if}
  {#if found}
    {@const f = found}
    <div class="flex flex-col gap-2 border-y border-rule py-3">
      <p>
        <strong class="break-all">{file?.name}</strong>: {of[f.of].toLowerCase()}, made {dayTime(f.made)}.
      </p>
      <ul class="list-inside list-disc">
        <li>
          {count(f.jobs.new, 'new job')}{f.more
            ? `, ${count(f.more, 'job that goes on', 'jobs that go on')}`
            : ''}{f.jobs.here ? `, ${f.jobs.here} here already` : ''}
        </li>
        {#if f.machines.new}<li>{count(f.machines.new, 'new machine')}</li>{/if}
        {#if f.kit.new}<li>
            {count(f.kit.new, 'new piece of kit or note', 'new pieces of kit and notes')}
          </li>{/if}
        {#if f.circuits.new}<li>{count(f.circuits.new, 'new circuit')}</li>{/if}
        {#if f.kit.kept + f.circuits.kept}
          <li>{f.kit.kept + f.circuits.kept} of kit and circuits differ here, and stay as they are here</li>
        {/if}
      </ul>
      {#each f.listed.filter((j) => j.is !== 'here').slice(0, 12) as j (j.id)}
        <p class="small">
          <span class="figures">{day(j.at)}</span>
          <strong class="text-ink">{j.machine}</strong>, {j.complaint || 'no complaint'}{#if j.holds}: {count(
              j.holds,
              'hold',
            )}, {count(j.readings, 'reading')}{/if}{#if j.is === 'more'}; goes on from the one that is here{/if}.
          {#if j.is === 'other'}<strong class="text-vermilion">Differs: {j.says}.</strong>{/if}
        </p>
      {/each}
      {#if f.taken}
        <p class="font-bold text-teal" role="status">
          {f.adds ? 'Taken over: all of it is in' : 'All of it was here already: nothing changed in'}
          <a href={p('/book')}>the book</a>.
        </p>
      {:else if f.conflicts}
        <p class="font-bold text-vermilion" role="alert">
          {count(f.conflicts, 'job differs', 'jobs differ')} from the book here, so nothing of it can be taken over.
        </p>
      {:else if f.adds}
        <div>
          <button class="btn" data-take disabled={busy} onclick={() => void ask(true)}>Take it over</button>
        </div>
      {:else}
        <p role="status">All of it is here already.</p>
      {/if}
    </div>
  {/if}
  {#if says}<p class="text-vermilion" role="alert">{says}</p>{/if}
</section>
