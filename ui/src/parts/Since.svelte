<script lang="ts">
  // How long a hold has been held, or when its call is expected: counts by itself.
  import type { Hold } from '../lib/api/client';
  import { clock } from '../lib/show';
  import { into } from '../lib/ticking';

  let { hold, brief = false }: { hold: Hold; brief?: boolean } = $props();
  const t = $derived(into(hold));
  const says = $derived.by(() => {
    if (hold.state === 'ended') return `held ${clock((hold.ended_s ?? 0) - (hold.isolated_s ?? 0))}`;
    if (hold.state === 'pumping') return `${hold.strokes} ${hold.strokes === 1 ? 'stroke' : 'strokes'}`;
    const held = `held ${clock(t - (hold.isolated_s ?? 0))}`;
    if (hold.calls.length || hold.call_expected_s === null) return held;
    const call = `call in ${clock(Math.max(0, hold.call_expected_s - t))}`;
    return brief ? call : `${held}, ${call}`;
  });
</script>

<span class="figures">{says}</span>
