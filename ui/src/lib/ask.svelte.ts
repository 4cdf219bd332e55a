// A write whose answer is waited for, as a form does: what is wrong is shown at the
// form. Until it is answered, the same content goes again under the same id.
import { Refused, post } from './api/client';
import type { paths } from './api/schema';
import { stamped } from './outbox.svelte';

export class Ask {
  busy = $state(false);
  says = $state(''); // what was refused
  field = $state('');
  #content = '';
  #body: object = {};

  // send gives the answer, or nothing when it was refused.
  async send<T>(path: keyof paths, content: object, id?: string): Promise<T | undefined> {
    if (this.busy) return undefined;
    const same = JSON.stringify([path, id, content]);
    if (same !== this.#content) {
      this.#content = same;
      this.#body = stamped(content);
    }
    this.busy = true;
    this.says = this.field = '';
    try {
      const answer = (await post(path, this.#body, id)) as T;
      this.#content = '';
      return answer;
    } catch (e) {
      this.says = e instanceof Error ? e.message : String(e);
      if (e instanceof Refused) {
        this.field = e.field;
        this.#content = '';
      }
      return undefined;
    } finally {
      this.busy = false;
    }
  }
}
