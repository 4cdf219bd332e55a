// A write whose answer is waited for, as a form does: what is wrong is shown at the
// form. Until it is answered, the same content goes again under the same id.
import { Refused, post, type Job, type Receipt } from './api/client';
import { keepJob, readJob } from './job';
import type { paths } from './api/schema';
import { stamped } from './outbox.svelte';

export class Ask {
  busy = $state(false);
  says = $state(''); // what was refused
  field = $state('');
  #content = '';
  #body: object = {};

  // sheet writes to a job and gives its sheet as it is then, or nothing when the write was
  // refused.
  async sheet(path: keyof paths, content: object, id?: string): Promise<Job | undefined> {
    const receipt = await this.send<Receipt>(path, content, id);
    if (!receipt) return undefined;
    this.busy = true;
    try {
      const job = await readJob(receipt.of);
      keepJob(job);
      return job;
    } catch (e) {
      this.says = e instanceof Error ? e.message : String(e);
      return undefined;
    } finally {
      this.busy = false;
    }
  }

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
