<script lang="ts">
  // Who may come in and as what: PINs, devices, loggers; and the backups of what they write.
  import { createQuery } from '@tanstack/svelte-query';
  import { atTheDoor, enter, get, leave, type Door } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { shutOut } from '../lib/door.svelte';
  import { me } from '../lib/me.svelte';
  import { queries } from '../lib/query';
  import { page } from '../lib/known.svelte';
  import { p } from '../lib/routes';
  import { capital, day, dayTime } from '../lib/show';
  import Backups from '../parts/Backups.svelte';
  import Bundles from '../parts/Bundles.svelte';
  import Certificate from '../parts/Certificate.svelte';
  import Feed from '../parts/Feed.svelte';
  import Loggers from '../parts/Loggers.svelte';
  import PaperHead from '../parts/PaperHead.svelte';
  import PinForm from '../parts/PinForm.svelte';

  const door = createQuery(() => ({ queryKey: ['devices'], queryFn: () => get('/api/devices') }));
  const here = createQuery(() => ({ queryKey: ['door'], queryFn: atTheDoor }));
  const ask = new Ask();
  let pin = $state('');
  let says = $state('');
  const owner = $derived(here.data?.owner ?? false);
  const roles = { owner: 'owner', hand: 'hand', logger: 'logger' } as const;

  async function told(v: Door | undefined): Promise<void> {
    if (v) queries.setQueryData(['devices'], v);
    await here.refetch();
  }
  const enterAs = (owners: string) =>
    enter({ pin: owners, name: here.data?.device || "The shop's computer", person: me.by, borrowed: true });
  async function asOwner(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    says = '';
    try {
      await enterAs(pin.trim());
      pin = '';
      await Promise.all([here.refetch(), door.refetch()]);
    } catch (x) {
      says = x instanceof Error ? x.message : String(x);
    }
  }
  // Whoever sets the owner's PIN is the owner and need not type it again.
  async function ownerSet(v: Door, to: string): Promise<void> {
    if (to) await enterAs(to);
    await told(v);
    await door.refetch();
  }
  async function out(): Promise<void> {
    await leave();
    if (here.data?.this_computer) await Promise.all([here.refetch(), door.refetch()]);
    else shutOut.value = true;
  }
</script>

<div
  data-view="devices"
  data-ready={door.data !== undefined && here.data !== undefined}
  data-devices={door.data?.devices.length}
  data-owner={owner}
  class="mx-auto flex max-w-3xl flex-col gap-5 px-4 py-5"
>
  <div class="flex flex-wrap items-center gap-3">
    <h1 class="grow">Devices</h1>
    {#if here.data?.device}<button class="btn" onclick={() => void out()}
        >{here.data.this_computer ? 'Owner out' : 'Sign this device out'}</button
      >{/if}
    <a class="btn" href={p('/kit')}>Kit</a>
  </div>
  {#if door.data && here.data}
    {@const d = door.data}
    <p class="min-h-10 small" data-page={page.kept}>
      {#if page.kept}
        This device also opens where the shop's computer does not answer: to what is under pressure as it
        stood, and the sheets read last.
      {:else if here.data.borrowed}
        A borrowed device keeps nothing of the shop, and opens only where the shop's computer answers.
      {:else if page.kept === false}
        This device opens only where the shop's computer answers: for more it needs a secure connection, whose
        certificate it trusts. A page that is open keeps what is pressed all the same.
      {/if}
    </p>
    {#if d.wrong}
      <div class="flex flex-wrap items-center gap-3 border-y-2 border-vermilion py-2" role="alert">
        <p class="grow font-bold text-vermilion">
          {d.wrong.n} wrong PINs from {d.wrong.from === 1 ? 'one device' : `${d.wrong.from} devices`} since {dayTime(
            d.wrong.since,
          )}.
        </p>
        {#if owner}<button
            class="btn"
            onclick={async () => told(await ask.send<Door>('/api/wrong-pins/forget', {}))}
            >Let all try again</button
          >{/if}
      </div>
    {/if}
    {#if !owner && (d.owner_set || !here.data.this_computer)}
      <form class="flex flex-wrap items-end gap-3" onsubmit={asOwner} autocomplete="off">
        <p class="w-full">PINs, devices, kit and backups are the owner's.</p>
        <label
          >The owner's PIN
          <input
            id="owner"
            class="mt-1 field text-xl"
            type="password"
            bind:value={pin}
            maxlength="72"
          /></label
        >
        <button class="btn btn-main" disabled={!pin.trim()}>Go on as owner</button>
        {#if says}<p class="w-full text-vermilion" role="alert">{capital(says)}</p>{/if}
      </form>
    {:else}
      <p>
        This computer works without a PIN. A phone or another computer needs one, and has access only where
        the application was started to listen beyond this computer (<code
          >idlehiss serve --addr 0.0.0.0:8340</code
        >).
      </p>
      <PinForm role="owner" set={d.owner_set} known={d.owner_set} done={ownerSet}>
        The owner sets PINs, kit, devices and backups. With an owner's PIN these ask for it on this computer
        too.
      </PinForm>
      {#if d.owner_set}
        <PinForm role="hand" set={d.pin_set} known={d.owner_set} done={told}>
          Hands do jobs and holds from phones and other computers.
        </PinForm>
      {/if}
    {/if}
    <section class="border-t-2 border-ink pt-3" aria-label="Devices that are in">
      <h2>Signed in now</h2>
      {#if ask.says}<p class="py-2 text-vermilion" role="alert">{ask.says}</p>{/if}
      {#each d.devices as x (x.id)}
        <div class="flex flex-wrap items-center gap-x-4 border-b border-rule py-2" data-device={x.name}>
          <span class="grow"
            ><strong>{x.name}</strong>{x.person ? `, ${x.person}` : ''}
            <span class="text-mute"
              >· {roles[x.role]}{x.gauges.length ? ` of ${x.gauges.join(', ')}` : ''}</span
            ></span
          >
          <span class="small figures"
            >in since {day(x.since)}, {x.until
              ? `out at ${dayTime(x.until)}`
              : `last here ${day(x.seen)}`}</span
          >
          {#if owner}<button
              class="btn"
              onclick={async () => told(await ask.send<Door>('/api/devices/{id}/out', {}, x.id))}
              >Sign out</button
            >{/if}
        </div>
      {:else}
        <p class="py-2 text-mute">No other device is signed in.</p>
      {/each}
      <p class="py-2 small text-mute">
        One that is not used for 30 days, or was let in half a year ago, is out by itself.
      </p>
    </section>
    <Loggers {owner} done={() => void door.refetch()} />
    <Certificate />
    <Backups {owner} />
    {#if owner}<PaperHead /><Bundles />{/if}
    <Feed />
  {:else if door.error}
    <p class="py-2 text-vermilion" role="alert">{door.error.message}</p>
  {/if}
</div>
