// Keeps the page on the phone. What it keeps and under which name stands above; drawings of plants are kept as they come, since
// what an address of theirs shows never changes; everything else goes to the network.
const DRAWINGS = 'field-drawings';
self.addEventListener('install', function (event) {
  event.waitUntil(caches.open(NAME).then(function (cache) { return cache.addAll(KEPT); }).then(function () { return self.skipWaiting(); }));
});
self.addEventListener('activate', function (event) {
  event.waitUntil(
    caches.keys().then(function (names) {
      return Promise.all(names.filter(function (name) { return name.indexOf('field-') === 0 && name !== NAME; }).map(function (name) { return caches.delete(name); }));
    }).then(function () { return self.clients.claim(); })
  );
});
self.addEventListener('fetch', function (event) {
  const url = new URL(event.request.url);
  if (event.request.method === 'GET' && url.origin === self.location.origin && url.pathname.indexOf('/portraits/') === 0) {
    event.respondWith(caches.open(DRAWINGS).then(function (drawings) {
      return drawings.match(event.request, { ignoreVary: true }).then(function (kept) {
        return kept || fetch(event.request).then(function (sent) {
          if (sent.ok) { drawings.put(event.request, sent.clone()).catch(function () {}); } // without room it is fetched again
          return sent;
        });
      });
    }));
  } else if (event.request.method === 'GET' && url.origin === self.location.origin && KEPT.indexOf(url.pathname + url.search) >= 0) {
    event.respondWith(caches.match(event.request, { cacheName: NAME, ignoreVary: true }).then(function (kept) { return kept || fetch(event.request); }));
  }
});
