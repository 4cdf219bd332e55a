<script lang="ts">
  // The circuit as a hunt needs it: each space as a box, its parts as rings on the edge, thick
  // where a leak is likely, cut where one was seen, thin where one is ruled out.
  import type { Job, Suspect } from '../lib/api/client';
  import SuspectRing from './SuspectRing.svelte';

  let { job, at, choose }: { job: Job; at: string; choose: (id: string) => void } = $props();

  // The order of the circuit's file: a picture that stays where it is.
  const sorted = $derived(
    job.suspects.toSorted(
      (a, b) => (a.n < 0 ? 1e6 : a.n) - (b.n < 0 ? 1e6 : b.n) || a.id.localeCompare(b.id),
    ),
  );
  // Each part is drawn once: on the edge of the first space under pressure that it bounds.
  const boxes = $derived.by(() => {
    const order = job.hunt.chambers.toSorted((a, b) => Number(b.pressed) - Number(a.pressed));
    const placed: string[] = [];
    const out: {
      id: string;
      title: string;
      tint: string;
      pressed: boolean;
      left: Suspect[];
      right: Suspect[];
    }[] = [];
    for (const c of order) {
      const here = sorted.filter((s) => !placed.includes(s.id) && s.between.includes(c.id));
      placed.push(...here.map((s) => s.id));
      if (!here.length) continue;
      const half = Math.ceil(here.length / 2);
      out.push({
        id: c.id,
        title: c.title,
        pressed: c.pressed,
        tint: c.pressed ? 'bg-brass-wash' : c.holds === 'liquid' ? 'bg-teal-wash' : 'bg-page',
        left: here.slice(0, half),
        right: here.slice(half),
      });
    }
    const rest = sorted.filter((s) => !placed.includes(s.id));
    if (rest.length) {
      const half = Math.ceil(rest.length / 2);
      out.unshift({
        id: 'rig',
        title: 'Rig',
        pressed: true,
        tint: 'bg-page',
        left: rest.slice(0, half),
        right: rest.slice(half),
      });
    }
    return out;
  });
  // What lies behind a part, where that is another space.
  function into(s: Suspect, box: string): string {
    const other = s.between.find((id) => id !== box && id !== 'outside' && id !== '');
    const c = job.hunt.chambers.find((x) => x.id === other);
    return c ? `into: ${c.title}` : '';
  }
</script>

{#snippet part(s: Suspect, box: string, side: 'left' | 'right')}
  <button
    class="flex min-h-12 w-full items-center gap-1.5 px-1 text-[13px] leading-tight {side === 'left'
      ? 'flex-row-reverse text-right'
      : 'text-left'} {s.id === at ? 'bg-brass-wash font-bold outline-2 outline-ink' : ''}"
    data-ring-of={s.id}
    data-share={s.share.toFixed(3)}
    aria-pressed={s.id === at}
    onclick={() => choose(s.id)}
  >
    <SuspectRing suspect={s} />
    <span class="min-w-0 grow {s.faulty ? 'font-bold text-vermilion' : ''}"
      >{s.title}{#if into(s, box)}<span class="block text-mute">{into(s, box)}</span>{/if}</span
    >
  </button>
{/snippet}

<section aria-label="Map of the suspects" data-hunt-map={job.circuit_id} class="flex flex-col gap-3">
  {#each boxes as b (b.id)}
    <div class="grid grid-cols-[minmax(0,1fr)_5.5rem_minmax(0,1fr)] items-stretch">
      <ul class="flex flex-col justify-center">
        {#each b.left as s (s.id)}<li class="-mr-3.5">{@render part(s, b.id, 'left')}</li>{/each}
      </ul>
      <div
        class="flex items-center justify-center border-2 px-3.5 py-3 text-center text-[13px] leading-tight font-bold {b.tint} {b.pressed
          ? 'border-ink'
          : 'border-rule'}"
      >
        {b.title}
      </div>
      <ul class="flex flex-col justify-center">
        {#each b.right as s (s.id)}<li class="-ml-3.5">{@render part(s, b.id, 'right')}</li>{/each}
      </ul>
    </div>
  {/each}
</section>
