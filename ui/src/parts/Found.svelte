<script lang="ts">
  // How a hunt stands: the part that is named, the mend that waits for its proof, a second leak.
  import type { Job } from '../lib/api/client';
  import { figure } from '../lib/show';
  import Ring from './Ring.svelte';

  let { job }: { job: Job } = $props();
  const hunt = $derived(job.hunt);
  const last = $derived(job.holds.findLast((h) => h.purpose !== 'rig proof' && h.report !== null));
  const tight = $derived(!hunt.named && !hunt.retest && last?.report?.call === 'tight');
  const title = $derived(job.suspects.find((s) => s.id === hunt.named?.part)?.title ?? '');
</script>

{#if tight}
  <p data-hunt="tight">
    The hold was tight. Hunt on only if the complaint stands: hot, moved, under vacuum, or another circuit.
  </p>
{/if}
{#if hunt.retest}
  <p class="text-lg font-bold" role="status" data-hunt="retest">
    Mended, not proved yet: hold it again in the same way.
  </p>
{:else if hunt.second}
  <p class="text-lg font-bold" role="status" data-hunt="second">
    It still leaks after the mend{#if hunt.flow_cm3_per_min}: a leak of {figure(hunt.flow_cm3_per_min.value)} cm³/min
      is left{/if}.
  </p>
{/if}
{#if hunt.named && !hunt.retest}
  <div class="flex items-center gap-4" role="status" data-named={hunt.named.part} data-eyes={hunt.named.seen}>
    <Ring kind="cut" size={72} />
    <div>
      <p class="text-2xl font-bold text-vermilion">{title}</p>
      <p>
        {hunt.mend ? 'Seen leaking' : hunt.named.seen ? 'Something was seen there' : 'Not seen yet'}, {hunt
          .named.odds > 0.99
          ? 'more than 99'
          : Math.round(100 * hunt.named.odds)} in 100.
        {#if !hunt.mend && hunt.next}It may come from elsewhere: look once more before it is mended.
        {:else if hunt.named.repairs.length}Smallest repair: {hunt.named.repairs[0]}. Then hold it again.{/if}
      </p>
      {#if job.explains}<p>{job.explains}</p>{/if}
    </div>
  </div>
{/if}
