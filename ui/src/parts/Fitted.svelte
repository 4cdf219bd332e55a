<script lang="ts">
  // The rig: what the port takes, which pieces of the kit go on, and what fitted the
  // machine the last time.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';

  let { job }: { job: Job } = $props();
  let typed = $state('');
  let neck = $state<string>();
  let more = $state(false);
  const ask = new Ask();
  const rig = $derived(job.rig);
  const open = $derived(job.state === 'open');
  const on = $derived(rig.pieces.filter((p) => p.on).map((p) => p.id));
  const few = $derived(more ? rig.pieces : rig.pieces.filter((p) => p.suits || p.on));

  async function set(pieces: string[], text: string, at = rig.neck): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/fitted', { pieces, text, neck: at }, job.id);
    if (!j) return;
    keepJob(j);
    typed = '';
    neck = undefined;
  }
</script>

<section class="flex flex-col gap-2 border-t border-rule pt-3" aria-label="What goes on">
  {#each rig.ports as p (p)}<p><span class="text-mute">Air goes in at the</span> {p}</p>{/each}
  {#if rig.fitted}<p><span class="text-mute">On the rig:</span> <b>{rig.fitted}</b></p>{/if}
  {#each rig.says as s (s)}<p class="border-l-4 border-brass bg-page px-3 py-1.5">{s}</p>{/each}
  {#if open}
    {#if rig.before && rig.before !== rig.fitted}
      <p>
        Last time on this machine: <b>{rig.before}</b>.
        {#if !rig.fitted}<button class="btn" disabled={ask.busy} onclick={() => void set([], rig.before)}
            >The same again</button
          >{/if}
      </p>
    {/if}
    {#if rig.necked}
      <form
        class="flex flex-wrap items-end gap-3"
        autocomplete="off"
        onsubmit={(e) => {
          e.preventDefault();
          void set(on, rig.text, (neck ?? rig.neck).trim());
        }}
      >
        <label class="min-w-[min(14rem,100%)] grow"
          ><span class="small">The neck: how wide, or how it is made</span>
          <input
            class="field"
            value={neck ?? rig.neck}
            oninput={(e) => (neck = e.currentTarget.value)}
            maxlength="60"
            placeholder="38 mm, smooth"
          /></label
        >
        <button class="btn" disabled={neck === undefined || neck.trim() === rig.neck || ask.busy}
          >What goes on it</button
        >
      </form>
    {/if}
    {#if few.length}
      <ul class="flex flex-wrap gap-2">
        {#each few as p (p.id)}
          <li>
            <button
              class="btn flex-col items-start py-1.5 text-left leading-tight {p.on
                ? 'border-2 border-ink bg-brass-wash'
                : ''}"
              aria-pressed={p.on}
              data-elsewhere={p.busy || undefined}
              disabled={ask.busy || (p.away !== '' && !p.on)}
              onclick={() => void set(p.on ? on.filter((x) => x !== p.id) : [...on, p.id], rig.text)}
            >
              <b>{p.name}</b>
              <span class="small"
                >{[
                  p.why,
                  p.fits,
                  p.rating && `good for ${p.rating}`,
                  p.away && `lent to ${p.away}`,
                  p.busy && `under pressure on ${p.busy} now`,
                ]
                  .filter(Boolean)
                  .join(', ')}</span
              >
            </button>
          </li>
        {/each}
      </ul>
    {/if}
    {#if !more && few.length < rig.pieces.length}
      <button class="min-h-11 self-start underline" onclick={() => (more = true)}
        >All {rig.pieces.length} adapters and plugs of the kit</button
      >
    {/if}
    <form
      class="flex flex-wrap items-end gap-3"
      autocomplete="off"
      onsubmit={(e) => {
        e.preventDefault();
        void set(on, typed.trim());
      }}
    >
      <label class="min-w-[min(14rem,100%)] grow"
        ><span class="small">What else fitted, for the next time</span>
        <input class="field" bind:value={typed} maxlength="300" placeholder="plate 12, ring renewed" /></label
      >
      <button class="btn" disabled={!typed.trim() || ask.busy}>Remember it</button>
    </form>
  {/if}
  {#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
</section>
