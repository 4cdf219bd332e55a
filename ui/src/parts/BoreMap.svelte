<script lang="ts">
  // One test of a housing: air in and plugs on the left, what is under pressure in the middle, and on the right every
  // place at which air may come out, with the seals that would let it there. A place is tapped where it does.
  import type { Job, Passages, PassageTest } from '../lib/api/client';
  import { change, plugged } from '../lib/bores';
  import { capital, lower } from '../lib/show';

  let {
    job,
    view,
    test,
    out,
    at,
    toggle,
    locked,
  }: {
    job: Job;
    view: Passages;
    test: PassageTest;
    out: string[]; // places at which it comes out
    at: string; // the place that the arrow keys are on
    toggle: (place: string) => void;
    locked: boolean;
  } = $props();

  const port = $derived(view.ports.find((p) => p.id === test.feed));
  const title = (id: string) =>
    view.parts.find((p) => p.id === id)?.title ??
    view.ports.find((p) => `port-${p.id}` === id || p.id === id)?.title ??
    id;
  const fed = $derived(view.stand.feed === test.feed);
  // What is plugged beside this test's own plugs has to come out: it stands here until it does.
  const pegs = $derived([...new Set([...test.plugs, ...(view.stand.plugs ?? [])])]);
  // Where it comes out and nothing would let it, as chosen from all parts.
  const places = $derived([
    ...test.places,
    ...out
      .filter((id) => !test.places.some((p) => p.id === id))
      .map((id) => ({ id, title: title(id), exits: [], seals: [], expected: false, meant: false })),
  ]);
  const chambers = $derived(view.chambers.filter((c) => test.pressed.includes(c.id)));
  // How thick a ring is drawn: by the likeliest seal behind the place.
  const width = (place: { id: string; seals: string[] }) => {
    const odds = view.parts.filter((p) => place.seals.includes(p.title)).map((p) => p.odds);
    return 1.5 + 5.5 * Math.sqrt(Math.min(1, Math.max(0, ...odds)));
  };
</script>

<section
  aria-label="The test in hand"
  data-bore-map={test.id}
  data-at={at}
  class="grid items-stretch gap-y-2 sm:grid-cols-[minmax(0,4fr)_minmax(5.5rem,2fr)_minmax(0,6fr)]"
>
  <ul class="flex flex-col justify-center">
    <li class="flex min-h-11 items-center gap-2" data-fed={fed}>
      <span class="min-w-0 grow text-[13px] leading-tight sm:text-right"
        ><b>Air in</b><span class="block">{capital(port?.title ?? test.feed)}</span></span
      >
      <svg width="56" height="20" viewBox="0 0 56 20" aria-hidden="true" class="shrink-0">
        <path
          d="M2 10 H44 M36 3 L46 10 L36 17"
          fill="none"
          stroke="var(--brass)"
          stroke-width={fed ? 5 : 2}
          stroke-dasharray={fed ? undefined : '4 3'}
        />
      </svg>
    </li>
    {#each pegs as id (id)}
      {@const isIn = plugged(job, view, id)}
      {@const wanted = test.plugs.includes(id)}
      <li>
        <button
          class="flex min-h-12 w-full items-center gap-2 text-left text-[13px] leading-tight sm:text-right"
          aria-pressed={isIn}
          data-peg={id}
          disabled={locked}
          onclick={() => change(job, { does: isIn ? 'unplug' : 'plug', at: id, to: '', says: '' })}
        >
          <span class="min-w-0 grow {isIn === wanted ? '' : 'font-bold'}"
            >{capital(title(id))}<span class="block {isIn === wanted ? 'text-mute' : 'text-vermilion'}"
              >{isIn ? (wanted ? 'plugged' : 'plugged: take it out') : 'plug it'}</span
            ></span
          >
          <svg width="56" height="20" viewBox="0 0 56 20" aria-hidden="true" class="shrink-0">
            <path d="M28 10 H54" stroke="var(--rule)" stroke-width="2" />
            <rect
              x="14"
              y="3"
              width="9"
              height="14"
              fill={isIn ? 'var(--ink)' : 'none'}
              stroke="var(--ink)"
              stroke-width="1.5"
            />
            <path d="M23 10 H34" stroke="var(--ink)" stroke-width={isIn ? 5 : 1.5} />
          </svg>
        </button>
      </li>
    {/each}
  </ul>
  <div
    class="flex flex-col items-center justify-center gap-2 border-2 border-ink bg-brass-wash px-2 py-3 text-center text-[13px] leading-tight font-bold"
    data-pressed-chambers={test.pressed.join(' ')}
  >
    {#each chambers as c (c.id)}<span>{capital(c.title)}</span>{/each}
  </div>
  <ul class="flex flex-col justify-center gap-2 sm:pl-0" aria-label="Where does it come out?">
    {#each places as p (p.id)}
      {@const chosen = out.includes(p.id)}
      <li>
        <button
          class="grid min-h-12 w-full grid-cols-[auto_minmax(0,1fr)] items-center gap-2 rounded border px-1 py-1 text-left text-[13px] leading-tight {chosen
            ? 'border-vermilion bg-vermilion-wash'
            : p.expected
              ? 'border-edge bg-page'
              : 'border-dashed border-edge'} {at === p.id ? 'outline-3 outline-brass' : ''}"
          aria-pressed={chosen}
          data-place={p.id}
          data-expected={p.expected}
          disabled={locked}
          onclick={() => toggle(p.id)}
        >
          <svg width="64" height="24" viewBox="0 0 64 24" aria-hidden="true">
            <path
              d="M0 12 H{p.seals.length ? 8 : 48}"
              stroke="var(--rule)"
              stroke-width="2"
              stroke-dasharray={p.expected ? undefined : '3 3'}
            />
            {#if p.seals.length}
              {#if chosen}
                <path d="M19 5 A8 8 0 1 0 24 12" fill="none" stroke="var(--vermilion)" stroke-width="4" />
              {:else}
                <circle cx="16" cy="12" r="7" fill="none" stroke="var(--ink)" stroke-width={width(p)} />
              {/if}
            {/if}
            <path
              d="M{p.seals.length ? 26 : 40} 12 H56 M50 6 L58 12 L50 18"
              fill="none"
              stroke={chosen ? 'var(--vermilion)' : 'var(--mute)'}
              stroke-width={chosen ? 4 : 1.5}
              stroke-dasharray={chosen ? undefined : '4 3'}
            />
          </svg>
          <span class="min-w-0"
            ><b class={chosen ? 'text-vermilion' : ''}>{p.title}</b>{#if p.meant}<span
                class="block font-bold text-brass"
                data-meant-there={p.id}>some is meant there: mark it only if it is more</span
              >{/if}{#if p.exits.length}<span class="block">out of: {p.exits.map(lower).join('; ')}</span
              >{/if}{#if p.seals.length && !(p.seals.length === 1 && p.seals[0] === p.title)}<span
                class="block text-mute">points to: {p.seals.map(lower).join(', ')}</span
              >{:else if !p.expected}<span class="block text-mute">not expected</span>{/if}</span
          >
        </button>
      </li>
    {/each}
    {#each test.meant as m (m.part)}
      <li class="flex min-h-9 items-center gap-2 px-1 text-[13px] leading-tight" data-meant={m.part}>
        <svg width="64" height="24" viewBox="0 0 64 24" aria-hidden="true" class="shrink-0">
          <path
            d="M0 12 H56 M50 6 L58 12 L50 18"
            fill="none"
            stroke="var(--brass)"
            stroke-width="2"
            stroke-dasharray="2 4"
          />
        </svg>
        <span class="min-w-0"
          ><b>{m.title}</b><span class="block">meant to pass{m.flow ? `, ${m.flow}` : ''}: no fault</span
          ></span
        >
      </li>
    {/each}
  </ul>
</section>
