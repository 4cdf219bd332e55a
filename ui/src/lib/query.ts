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
    again();
    return;
  }
  again(['job', jobId]);
  again(['bench']);
  again(['book']);
  again(['machine']);
}

// again asks again for what is kept under a key. The cache leaves alone an answer that is still on its way, though it may be
// older than the news: that one is asked for again when it has come.
function again(queryKey?: readonly unknown[]): void {
  const first = queries
    .getQueryCache()
    .findAll({ queryKey, fetchStatus: 'fetching', predicate: (q) => q.state.data === undefined });
  void queries.invalidateQueries({ queryKey });
  for (const q of first)
    void q
      .fetch() // that which is on its way
      .catch(() => {})
      .then(() => queries.invalidateQueries({ queryKey: q.queryKey, exact: true }));
}
