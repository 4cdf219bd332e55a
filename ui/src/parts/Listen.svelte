<script lang="ts">
  // The way to the ear, and what to do where there is none.
  import { ear, type NoEar } from '../lib/ear.svelte';

  const why: Record<Exclude<NoEar, ''>, string> = {
    insecure:
      'Browsers give a microphone only to this computer itself or to a secure connection. Open the page by https: Devices shows its address.',
    refused:
      'The browser does not let this page use the microphone. Allow the microphone beside the address of the page, then press again.',
    none: 'No microphone was found. Plug one in, or listen with a phone.',
    busy: 'The microphone gives no sound: another program may have it. Close that program, then press again.',
  };
  $effect(() => () => ear.stop());
</script>

{#if ear.stage === 'off'}
  <div
    class="flex flex-wrap items-center gap-2"
    data-ear={ear.refusal ? 'refused' : 'off'}
    data-refusal={ear.refusal}
  >
    <button class="btn" onclick={() => void ear.start()}>Listen with this device</button>
    {#if ear.refusal}<p class="grow basis-56" role="alert">
        {why[ear.refusal]} Looks are answered as before.
      </p>{/if}
  </div>
{/if}
