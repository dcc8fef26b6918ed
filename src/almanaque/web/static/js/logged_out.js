// Whoever is at the login is nobody yet: the garden that this phone keeps for working without a signal goes. What waits to be
// sent stays, and is shown to nobody but the one who entered it.
(function () {
  if (!window.indexedDB || !indexedDB.databases) { return; }
  indexedDB.databases().then(function (found) {
    if (!found.some(function (one) { return one.name === 'almanaque-field'; })) { return; }
    const asked = indexedDB.open('almanaque-field', 1);
    asked.onsuccess = function () {
      const wipe = asked.result.transaction('kept', 'readwrite');
      wipe.objectStore('kept').clear();
      wipe.oncomplete = function () { asked.result.close(); document.documentElement.dataset.wiped = 'yes'; };
    };
  }).catch(function () {});
})();
