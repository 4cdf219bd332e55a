/// <reference lib="webworker" />
// Opens the page where the shop's computer does not answer: keeps the page's own files, and nothing of what the server says.
// The build puts the list of files before it; with another list it is another worker, whose store takes the place of this one's.
const worker = self as unknown as ServiceWorkerGlobalScope & { files: { version: string; all: string[] } };

const store = `hiss.page.${worker.files.version}`;
const mostWait = 4000; // ms that the server has to give the page, where it is here already

worker.addEventListener('install', (e) => {
  e.waitUntil(caches.open(store).then((c) => c.addAll(['/', ...worker.files.all])));
  void worker.skipWaiting(); // a page that stays open for weeks does not hold up a new version
});

worker.addEventListener('activate', (e) => {
  const old = (name: string) => name.startsWith('hiss.page.') && name !== store;
  e.waitUntil(caches.keys().then((names) => Promise.all(names.filter(old).map((n) => caches.delete(n)))));
});

// kept is a file as it was with this version; none where the browser has thrown it away.
const kept = async (url: string) => (await caches.open(store)).match(url);

async function page(asked: Request): Promise<Response> {
  const here = kept('/');
  const late = new Promise<undefined>((done) => setTimeout(done, mostWait));
  const there = fetch(asked);
  try {
    return (await Promise.race([there, late])) ?? (await here) ?? (await there);
  } catch (e) {
    const file = await here;
    if (file) return file;
    throw e;
  }
}

worker.addEventListener('fetch', (e) => {
  const url = new URL(e.request.url);
  if (e.request.mode === 'navigate' && !url.pathname.startsWith('/api/')) e.respondWith(page(e.request));
  else if (worker.files.all.includes(url.pathname))
    e.respondWith(kept(url.pathname).then((file) => file ?? fetch(e.request)));
});
