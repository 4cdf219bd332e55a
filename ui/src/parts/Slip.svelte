<script lang="ts">
  // A reading that was written down on a slip of paper, added afterwards with its time.
  import type { Hold } from '../lib/api/client';
  import { reading } from '../lib/job';

  let { hold, unit, example }: { hold: Hold; unit: string; example: string } = $props();
  let into = $state('');
  let text = $state('');

  function add(e: SubmitEvent): void {
    e.preventDefault();
    if (!into.trim() || !text.trim()) return;
    reading(
      hold.id,
      { text: text.trim(), into: into.trim(), how: 'read' },
      `${text.trim()}, ${into.trim()} in,`,
    );
    into = text = '';
  }
</script>

<details class="basis-full">
  <summary class="flex min-h-11 items-center">Add a reading from paper</summary>
  <form class="flex flex-wrap items-end gap-2 pb-1" onsubmit={add} autocomplete="off">
    <label class="w-32"
      ><span class="small">Minutes and seconds after the supply was shut</span>
      <input
        id="slip-into"
        class="field figures"
        bind:value={into}
        placeholder="2:30"
        maxlength="20"
      /></label
    >
    <label class="w-28"
      ><span class="small">The gauge showed, {unit}</span>
      <input
        id="slip-text"
        class="field figures"
        inputmode="decimal"
        bind:value={text}
        placeholder={example}
        maxlength="20"
      /></label
    >
    <button class="btn" disabled={!into.trim() || !text.trim()}>Add the reading</button>
  </form>
</details>
