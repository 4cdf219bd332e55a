<script lang="ts">
  // What is told without looking: a call, an alarm, a reading that is due. One polite live region, the
  // page's title, and the tones; while the browser lets no tone through, a line says so.
  import { createQuery } from '@tanstack/svelte-query';
  import type { Hold } from '../lib/api/client';
  import { askBench, live } from '../lib/live.svelte';
  import { me } from '../lib/me.svelte';
  import { route } from '../lib/routes';
  import { lookSound, readSound, sound, tryIt } from '../lib/sound.svelte';
  import { calledWords } from '../lib/show';
  import { into } from '../lib/ticking';

  const due = $derived(
    live.running.filter((h) => h.state === 'holding' && h.read_next !== null && into(h) > h.read_next.t),
  );
  // A call that was taken back is none.
  const called = (h: Hold) => h.calls.length > 0 && h.ring !== 'dotted';
  // What is most urgent stands in the title; each thing is told once, when it becomes so.
  const first = $derived.by(() => {
    const alarm = live.running.find((h) => h.alarm);
    if (alarm) return { kind: 'alarm', says: `${alarm.alarm_text} ${alarm.machine}` };
    const fresh = live.running.findLast((h) => called(h) && h.state === 'holding');
    if (fresh) return { kind: 'call', says: `${calledWords(fresh)}: ${fresh.machine}` };
    const late = due[0];
    return late ? { kind: 'due', says: `Read now: ${late.machine}` } : { kind: 'none', says: '' };
  });
  const places: Record<string, string> = {
    '': 'Bench',
    book: 'Book',
    kit: 'Kit',
    circuits: 'Circuits',
    compare: 'Two holds compared',
    devices: 'Devices',
    handover: 'End of the shift',
    wall: 'Wall',
  };
  const place = $derived(me.heading || (places[route.pathname.split('/')[1] ?? ''] ?? ''));
  $effect(() => {
    document.title = [first.says, place, 'Idle Hiss']
      .filter((x, i, all) => x && all.indexOf(x) === i)
      .join(' · ');
  });

  // Looks that are due some time, of whatever job.
  const often = 60_000; // ms
  const bench = createQuery(() => ({ queryKey: ['bench'], queryFn: askBench, refetchInterval: often }));
  const looks = $derived((bench.data?.next ?? []).filter((n) => n.due_says !== ''));
  let overdue: Set<string> | undefined; // those that were due when they were last looked through
  $effect(() => {
    if (!bench.data) return;
    const now = new Set(looks.filter((n) => n.due).map((n) => `${n.job_id} ${n.due_at}`));
    const fresh = looks.find((n) => n.due && overdue && !overdue.has(`${n.job_id} ${n.due_at}`));
    overdue = now;
    if (!fresh) return;
    said = `${fresh.machine}. ${fresh.text}`;
    lookSound(fresh.machine);
  });

  let said = $state('');
  const last: Record<string, string> = {}; // of each hold, what was announced last
  $effect(() => {
    for (const h of live.running) {
      const isDue = due.includes(h);
      const now = h.alarm
        ? '' // the alarm speaks for itself
        : called(h)
          ? `${calledWords(h)}: ${h.machine}.`
          : isDue
            ? `Read the gauge now: ${h.machine}.`
            : h.calls.length
              ? `Call taken back: ${h.machine}.`
              : '';
      if (last[h.id] === undefined) {
        last[h.id] = now; // how it was found is not news
        continue;
      }
      if (now === last[h.id]) continue;
      last[h.id] = now;
      if (now) said = now;
      if (now && isDue && !called(h)) readSound(h);
    }
  });
  // The line stays until another screen is opened: a touch must not move what it is about to press.
  let line = $state('');
  $effect(() => {
    if ((me.sound || me.speech) && sound.blocked && (live.running.length || looks.length))
      line = route.pathname;
  });
</script>

<p class="sr-only" role="status" aria-live="polite" data-told={said} data-first={first.kind}>{said}</p>
{#if line && line === route.pathname}
  <p
    class="flex min-h-11 flex-wrap items-center gap-x-2 overflow-hidden border-b border-rule px-4 text-sm low:hidden"
    data-sound={sound.blocked ? 'blocked' : 'on'}
  >
    {sound.blocked ? 'No sound until you touch the page.' : 'Sound is on.'}
    <button class="min-h-11 px-2 underline" onclick={tryIt}>Try it</button>
  </p>
{/if}
