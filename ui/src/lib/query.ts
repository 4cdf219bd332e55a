// The one cache of what was read from the server.
import { QueryClient } from '@tanstack/svelte-query';

export const queries = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 2000, retry: 2, refetchOnWindowFocus: true, networkMode: 'always' },
  },
});

// refresh asks again for a job and for what lists jobs; without an id for all.
export function refresh(jobId?: string): void {
  if (jobId === undefined) {
    void queries.invalidateQueries();
    return;
  }
  void queries.invalidateQueries({ queryKey: ['job', jobId] });
  void queries.invalidateQueries({ queryKey: ['bench'] });
  void queries.invalidateQueries({ queryKey: ['book'] });
}
