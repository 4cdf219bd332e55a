// A trace file that is dropped on a sheet: read here, judged and kept by the server.
import { post, type Dropped } from './api/client';
import { stamped } from './outbox.svelte';

export async function dropTrace(jobId: string, file: File): Promise<Dropped> {
  const text = await file.text();
  return post('/api/jobs/{id}/traces', stamped({ name: file.name.slice(0, 200), text }), jobId);
}
