// The server's clock as it goes on, for what counts by itself: one timer for the whole page.
import { createSubscriber } from 'svelte/reactivity';
import { now } from './clock';

const every = 500; // ms
const follow = createSubscriber((changed) => {
  const t = setInterval(changed, every);
  return () => clearInterval(t);
});

// ticking is now, ms since the epoch; what is worked out from it is worked out again twice a second.
export function ticking(): number {
  follow();
  return now();
}

// into is how far a hold is on its own axis, s.
export function into(hold: { started_at: string }): number {
  return (ticking() - new Date(hold.started_at).getTime()) / 1000;
}
