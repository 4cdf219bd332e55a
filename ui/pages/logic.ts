// A page that the tests drive: the application's own modules, without its screens.
import type { Hold } from '../src/lib/api/client';
import { keys, onKey } from '../src/lib/keys.svelte';
import { live, take, thinned, whole } from '../src/lib/live.svelte';
import { me } from '../src/lib/me.svelte';
import { deliver, onDelivered, outbox, retry, send } from '../src/lib/outbox.svelte';

Object.assign(retry, { network: 30, fault: 30, aside: 120 }); // tests do not wait as people do

const delivered: string[] = [];
onDelivered((receipt) => delivered.push(receipt.id));

const fired: string[] = [];
keys([
  { key: ' ', says: 'outer', where: 'test', do: () => fired.push('outer') },
  { key: 'x', says: 'a letter', where: 'test', do: () => fired.push('x') },
]);
const inner = () => keys([{ key: ' ', says: 'inner', where: 'test', do: () => fired.push('inner') }]);
addEventListener('keydown', onKey);

Object.assign(window, {
  logic: {
    send: (path: Parameters<typeof send>[0], id: string, content: object) => send(path, id, content),
    deliver,
    waiting: () => outbox.waiting,
    refusal: () => outbox.refusal,
    field: () => outbox.field,
    delivered,
    take: (h: Hold) => take(h),
    hold: (id: string) => live.hold(id),
    whole: (id: string) => whole(live.hold(id)),
    asking: () => live.asking,
    thinned,
    fired,
    inner,
    letters: (on: boolean) => (me.letters = on),
  },
});
document.documentElement.dataset.ready = 'true';
