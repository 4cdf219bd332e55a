<script lang="ts">
  // What a step says: its ring, a word and a sentence.
  import type { Step } from '../lib/api/client';
  import { ringInk, verdicts } from '../lib/show';
  import Ring from './Ring.svelte';

  let { step }: { step: Step } = $props();
</script>

<div class="flex items-center gap-4" role="status" data-verdict={step.outcome.verdict}>
  <Ring kind={step.ring} size={64} />
  <div class="min-w-0">
    <p class="text-3xl font-bold {ringInk[step.ring]}">{verdicts[step.outcome.verdict]}</p>
    <p class="text-lg">{step.outcome.sentence}</p>
  </div>
</div>
