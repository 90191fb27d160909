// Keeps the pages of runs on the phone: the network first, and what lies here where there is none.
const box = "largo-run";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (e) => e.waitUntil(self.clients.claim()));

self.addEventListener("fetch", (e) => {
  const url = new URL(e.request.url);
  if (e.request.method !== "GET" || url.origin !== location.origin) return;
  if (url.pathname.startsWith("/static/")) {
    e.respondWith(caches.match(e.request).then((kept) => kept || fetched(e.request)));
  } else if (/^\/jobs\/[^/]+\/run\/\d+$/.test(url.pathname)) {
    e.respondWith(fetched(e.request).catch(() => caches.match(e.request).then((kept) => kept || Response.error())));
  }
});

async function fetched(request) {
  const answer = await fetch(request);
  if (answer.ok) (await caches.open(box)).put(request, answer.clone());
  return answer;
}
