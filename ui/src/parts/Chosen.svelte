<script lang="ts">
  // What is chosen, under what it is, as a line that can be changed.
  let { label, now }: { label: string; now: string } = $props();
</script>

<span class="flex min-h-12 w-full flex-wrap items-center gap-x-3 border-b border-rule">
  <span class="max-w-[45%] min-w-24 shrink-0 text-mute">{label}</span>
  <span class="min-w-[min(10rem,100%)] grow basis-0 font-bold">{now}</span>
  <span class="small underline">change</span>
</span>
