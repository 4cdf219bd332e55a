<script lang="ts">
  // What the certificate of this server is compared by, before a PIN is typed on another device.
  import { createQuery } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';

  const seen = createQuery(() => ({ queryKey: ['certificate'], queryFn: () => get('/api/certificate') }));
</script>

{#if seen.data?.sha256}
  {@const c = seen.data}
  <section
    class="flex flex-col gap-2 border-t-2 border-ink pt-3"
    aria-label="The certificate"
    data-certificate
  >
    <h2>The certificate</h2>
    <p>
      A new device warns that it does not know this server. Let it show the certificate's SHA-256 fingerprint:
      when it is this one, nobody sits in between.
    </p>
    <div class="flex flex-wrap items-start gap-4">
      <svg
        viewBox="-2 -2 {c.size + 4} {c.size + 4}"
        class="size-36 shrink-0"
        role="img"
        aria-label="Fingerprint"
        ><rect x="-2" y="-2" width={c.size + 4} height={c.size + 4} fill="#fff" /><path
          d={c.qr}
          fill="#000"
        /></svg
      >
      <div class="min-w-0 flex-1">
        <p class="break-all figures">{c.sha256}</p>
        <p class="mt-2">{c.words.join(' ')}</p>
      </div>
    </div>
  </section>
{/if}
