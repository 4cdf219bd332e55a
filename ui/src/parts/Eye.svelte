<script lang="ts">
  // A needle read by camera: the live picture, three taps, what is seen in it, and what to do about it.
  import type { Hold } from '../lib/api/client';
  import { awake } from '../lib/awake';
  import { eye, type Refusal } from '../lib/eye.svelte';
  import { pointAt } from '../lib/face';
  import { event } from '../lib/job';
  import { into } from '../lib/ticking';
  import KeyButton from './KeyButton.svelte';

  let { hold }: { hold: Hold } = $props();
  const mine = $derived(eye.of(hold));
  const reading = $derived(mine && eye.stage === 'reading');
  const place = $derived(eye.place);
  const seen = $derived(eye.seen);
  const next = $derived(eye.points.find((p) => !p.set));
  const ring = $derived(hold.gauge.rings[hold.gauge.read]!);
  const tapping = $derived(hold.tap_until === null ? 0 : Math.ceil(hold.tap_until - into(hold)));

  const why: Record<Exclude<Refusal, ''>, string> = {
    insecure:
      'Browsers give a camera only to this computer itself or to a secure connection. Open the page by https: Devices shows its address.',
    refused:
      'The browser does not let this page use the camera. Allow the camera beside the address of the page, then press again.',
    none: 'No camera was found. Plug one in, or read by camera on a phone.',
    busy: 'The camera gives no picture: another program may have it. Close that program, then press again.',
  };

  let video = $state<HTMLVideoElement>();
  $effect(() => {
    if (!video) return;
    video.srcObject = eye.stream ?? null;
    if (eye.stream) void video.play().catch(() => {});
  });
  $effect(() => (mine ? awake() : undefined));
  $effect(() => {
    if (mine && hold.state === 'ended') eye.stop();
  });

  function tap(e: MouseEvent): void {
    if (eye.stage !== 'points') return;
    const box = (e.currentTarget as Element).getBoundingClientRect();
    eye.tap((e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height);
  }
  const line = $derived.by(() => {
    if (!place || !seen || seen.trust === 'none') return undefined;
    return { from: pointAt(place, seen.angle, 0.12), to: pointAt(place, seen.angle, 0.98) };
  });
  const stroke = $derived(eye.size.width / 160);
  const trusted = { steady: 'steady', fair: 'not quite sharp', none: '' };
</script>

{#if !mine || eye.refusal}
  <div
    class="flex flex-wrap items-center gap-2"
    data-eye={mine ? 'refused' : 'off'}
    data-refusal={mine ? eye.refusal : ''}
  >
    <button class="btn" data-camera onclick={() => void eye.start(hold)}>Read it by camera</button>
    {#if mine && eye.refusal}
      <p class="grow basis-64" role="alert">{why[eye.refusal]} Readings are typed as before.</p>
    {/if}
  </div>
{:else}
  <section
    class="border-2 border-rule p-2"
    aria-label="The eye"
    data-eye={eye.stage}
    data-fault={seen?.fault ?? ''}
    data-trust={seen?.trust ?? ''}
    data-seen={seen?.value ?? ''}
    data-frames={eye.frames}
    data-kept={eye.kept}
    data-lost={eye.lost}
    data-cut-ms={eye.cutMs}
  >
    <div class="flex flex-wrap items-start gap-3">
      <div
        class="relative shrink-0 {eye.stage === 'points' || eye.stage === 'asking'
          ? 'w-full max-w-[22rem]'
          : `w-36 ${reading ? 'sm:w-[17rem]' : 'sm:w-[22rem]'}`}"
      >
        <video bind:this={video} class="block w-full" muted playsinline aria-label="What the camera sees"
        ></video>
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <!-- svelte-ignore a11y_no_static_element_interactions -->
        <svg
          class="absolute inset-0 h-full w-full {eye.stage === 'points' ? 'cursor-crosshair' : ''}"
          viewBox="0 0 {eye.size.width} {eye.size.height}"
          preserveAspectRatio="none"
          data-picture
          onclick={tap}
        >
          {#if eye.middle && eye.stage === 'points'}
            <circle
              cx={eye.middle.x * eye.size.width}
              cy={eye.middle.y * eye.size.height}
              r={stroke * 3}
              fill="#ff8a67"
            />
            {#each eye.points.filter((p) => p.set) as p (p.value)}
              <circle
                cx={p.x * eye.size.width}
                cy={p.y * eye.size.height}
                r={stroke * 3}
                fill="none"
                stroke="#ff8a67"
                stroke-width={stroke}
              />
            {/each}
          {/if}
          {#if place && eye.stage !== 'points'}
            {#each [0.2, 0.72] as far (far)}
              <circle
                cx={place.x}
                cy={place.y}
                r={place.radius * far}
                fill="none"
                stroke="#4fc4b3"
                stroke-width={stroke / 2}
              />
            {/each}
            {#each eye.scale as m (m.value)}
              {@const at = pointAt(place, m.angle, m.radius)}
              <circle cx={at.x} cy={at.y} r={stroke * 2} fill="none" stroke="#4fc4b3" stroke-width={stroke} />
            {/each}
            {#if line}
              <line
                x1={line.from.x}
                y1={line.from.y}
                x2={line.to.x}
                y2={line.to.y}
                stroke="#ff8a67"
                stroke-width={stroke}
              />
            {/if}
          {/if}
        </svg>
      </div>
      <div class="flex min-w-40 grow basis-40 flex-col gap-2">
        {#if eye.stage === 'asking'}
          <p>
            Allow the camera where the browser asks. Prop it up square before the gauge, so that it cannot
            move.
          </p>
        {:else if eye.stage === 'points'}
          <p class="text-lg font-bold">
            {#if !eye.middle}1. Tap the middle, where the needle turns.{:else if next}{eye.points.filter(
                (p) => p.set,
              ).length + 2}. Tap the mark of {next.value}
              {hold.unit}.{/if}
          </p>
          {#if eye.middle && next}
            <label class="flex items-center gap-2"
              ><span class="small">Another mark instead</span>
              <select
                class="field w-28"
                value={next.value}
                onchange={(e) => eye.value(Number(e.currentTarget.value))}
              >
                {#each Array.from( { length: Math.floor((ring.to - ring.from) / ring.numbered + 1.001) }, (_, i) => Number((ring.from + i * ring.numbered).toFixed(6)) ) as v (v)}
                  <option value={v}>{v}</option>
                {/each}
              </select>
              <span>{hold.unit}</span></label
            >
          {/if}
          <p class="small">
            The camera stands square before the gauge and cannot move; no lamp mirrors in the glass.
          </p>
        {:else}
          <p class="leading-tight" role="status">
            {#if seen && seen.value !== null}
              <span class="text-3xl font-bold figures">{seen.shown}</span>
              <span class="block small {seen.trust === 'steady' ? 'text-teal' : 'text-brass'}"
                >{trusted[seen.trust]}, ± {seen.within}{reading ? `, ${eye.kept} read` : ''}</span
              >
            {:else}
              <span class="text-lg font-bold text-vermilion">{seen?.says || eye.says || 'Looking …'}</span>
            {/if}
          </p>
          {#if seen?.aslant}<p class="small">{seen.aslant}</p>{/if}
          {#if eye.stage === 'check'}
            <p>Does the drawn line lie on the needle, and is the figure right?</p>
            <div class="flex flex-wrap gap-2">
              <button class="btn btn-main" data-go disabled={seen?.value == null} onclick={() => eye.go()}
                >Yes, read it</button
              >
              <button class="btn" onclick={() => eye.more()}>One more mark</button>
            </div>
          {:else if hold.state === 'holding'}
            <div
              class="flex flex-wrap items-center gap-2"
              data-tap-due={hold.tap_due}
              data-tapping={tapping > 0}
            >
              {#if tapping > 0}
                <p class="font-bold">
                  Tap on, lightly, once a second: <span class="figures">{tapping} s</span>
                </p>
              {:else}
                <KeyButton
                  key="a"
                  says="The gauge is being tapped, for half a minute"
                  where="During a hold"
                  class={hold.tap_due ? 'border-2 border-ink bg-brass-wash font-bold' : ''}
                  act={() => event(hold.id, 'tap')}>I tap the gauge</KeyButton
                >
                {#if hold.tap_due}<p class="grow basis-40 small">
                    Its needle may stick: tap it lightly, once a second, for half a minute. That shortens the
                    hold.
                  </p>{/if}
              {/if}
            </div>
          {/if}
        {/if}
        <div class="mt-auto flex flex-wrap gap-2">
          {#if eye.stage !== 'asking'}<button class="btn" onclick={() => eye.again()}
              >Set the points again</button
            >{/if}
          <button class="btn" data-stop onclick={() => eye.stop()}>Camera off</button>
          {#if eye.cameras.length > 1}
            <select
              class="field w-40"
              aria-label="Which camera"
              onchange={(e) => void eye.start(hold, e.currentTarget.value)}
            >
              {#each eye.cameras as c (c.id)}<option value={c.id}>{c.label}</option>{/each}
            </select>
          {/if}
        </div>
      </div>
    </div>
  </section>
{/if}
