<script lang="ts">
  // What must be done at once, on every screen and above everything that is open: over the limit, or an
  // engine to stop. It lies over the header, so that nothing moves when it comes.
  import type { Hold } from '../lib/api/client';
  import { live } from '../lib/live.svelte';
  import { p } from '../lib/routes';

  const over = $derived(live.running.filter((h) => h.alarm));
  // What is read out stays as it was when the alarm came.
  const told: Record<string, string> = {};
  function once(h: Hold): string {
    return (told[`${h.id} ${h.alarm}`] ??= `${h.machine}: ${h.alarm_text}`);
  }
</script>

{#if over.length}
  <!-- Announced once: the figures beside the words are not read out again as they change. -->
  <div
    class="pointer-events-auto fixed inset-x-0 top-0 z-60 max-h-28 overflow-y-auto border-b-4 border-vermilion bg-vermilion-wash"
    data-alarms={over.length}
  >
    {#each over as h (h.id)}
      <p class="sr-only" role="alert">{once(h)}</p>
      <a
        href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: h.stage } })}
        data-alarm={h.alarm}
        class="flex h-[46px] items-center gap-x-3 overflow-hidden px-3 leading-tight font-bold text-ink no-underline sm:px-4 sm:text-lg lg:h-[54px]"
      >
        <span class="line-clamp-2 min-w-0 grow">{h.machine}: {h.alarm_text}</span>
        {#if h.value && Math.abs(h.value.pa) > Math.abs(h.limit_shown.pa)}<span
            class="shrink-0 text-xl figures"
            aria-hidden="true">{h.value.text} {h.unit}</span
          >{/if}
        <span class="hidden shrink-0 underline sm:inline">To the hold</span>
      </a>
    {/each}
  </div>
{/if}
