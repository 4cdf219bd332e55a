<script lang="ts">
  // Every key that works now, and how this page is liked.
  import { Dialog, Switch } from 'bits-ui';
  import { bindings, keyName } from '../lib/keys.svelte';
  import { me } from '../lib/me.svelte';
  import { sound, tryIt } from '../lib/sound.svelte';

  let { open = $bindable() }: { open: boolean } = $props();

  const groups = $derived.by(() => {
    const out: Record<string, { key: string; says: string }[]> = {};
    for (const b of bindings()) {
      const list = (out[b.where] ??= []);
      if (!list.some((x) => x.key === b.key && x.says === b.says)) list.push(b);
    }
    return Object.entries(out).reverse();
  });
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/50" />
    <Dialog.Content
      data-dialog="keys"
      class="fixed top-1/2 left-1/2 z-50 max-h-[88vh] w-[min(760px,94vw)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded border-2 border-ink bg-page p-6"
    >
      <div class="flex items-start justify-between gap-4">
        <Dialog.Title class="text-xl font-bold">Keys and settings</Dialog.Title>
        <Dialog.Close class="btn">Close <span class="key text-mute">Esc</span></Dialog.Close>
      </div>
      <Dialog.Description class="mb-4 text-mute">Keys never fire while you type.</Dialog.Description>
      <div class="grid gap-x-8 gap-y-4 sm:grid-cols-2">
        <section class="flex flex-col gap-3">
          <h3 class="border-b border-rule font-bold">This page</h3>
          <label>
            <span class="small">Your first name, written beside what you enter</span>
            <input
              class="mt-1 field"
              value={me.by}
              oninput={(e) => (me.by = e.currentTarget.value)}
              autocomplete="off"
            />
          </label>
          {#snippet choice(label: string, on: boolean, set: (v: boolean) => void)}
            <label class="flex min-h-11 items-center justify-between gap-3">
              {label}
              <Switch.Root
                checked={on}
                onCheckedChange={set}
                aria-label={label}
                class="inline-flex h-8 w-14 shrink-0 items-center rounded-full border-2 border-edge bg-paper p-0.5 data-[state=checked]:bg-ink"
              >
                <Switch.Thumb
                  class="size-6 rounded-full border border-edge bg-page transition-transform data-[state=checked]:translate-x-6"
                />
              </Switch.Root>
            </label>
          {/snippet}
          {@render choice('Night colours', me.theme === 'night', (v) => (me.theme = v ? 'night' : 'day'))}
          {@render choice('Sound at a call', me.sound, (v) => (me.sound = v))}
          <p class="flex items-center justify-between gap-3">
            <span class="small"
              >{sound.blocked
                ? 'This browser lets no sound through yet: touch the page.'
                : 'Sound is allowed here.'}</span
            >
            <button class="btn shrink-0" onclick={tryIt}>Try it</button>
          </p>
          {@render choice('A call is spoken', me.speech, (v) => (me.speech = v))}
          {@render choice('Single keys (letters, figures, signs)', me.letters, (v) => (me.letters = v))}
          <p>
            <a class="inline-flex min-h-11 items-center underline" href="/wall"
              >Wall screen: what is under pressure, to read across the shop</a
            >
          </p>
          <p class="small"><a href="/licences.txt">Licences of what ships inside</a></p>
        </section>
        {#each groups as [where, list] (where)}
          <section>
            <h3 class="mb-1 border-b border-rule font-bold">{where}</h3>
            <dl class="grid grid-cols-[4.5rem_1fr] gap-y-1">
              {#each list as b (b.key + b.says)}
                <dt><span class="key">{keyName(b.key)}</span></dt>
                <dd>{b.says}</dd>
              {/each}
            </dl>
          </section>
        {/each}
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
