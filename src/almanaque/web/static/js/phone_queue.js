// What a phone keeps: the snapshot it works from, and what was entered until the server has it. Nothing here knows the page.
// Every entry has an id of its own, made here: sent twice, or by two phones, it is one.
const FieldQueue = (function () {
  let opened = null;

  function database() {
    if (!opened) {
      opened = new Promise(function (resolve, reject) {
        const asked = indexedDB.open('almanaque-field', 1);
        asked.onupgradeneeded = function () {
          asked.result.createObjectStore('queue', { keyPath: 'id' });
          asked.result.createObjectStore('kept', { keyPath: 'name' });
        };
        asked.onsuccess = function () { resolve(asked.result); };
        asked.onerror = function () { reject(asked.error); };
      });
    }
    return opened;
  }

  async function run(store, mode, work) {
    const base = await database();
    return new Promise(function (resolve, reject) {
      const transaction = base.transaction(store, mode);
      const asked = work(transaction.objectStore(store));
      // Only when the transaction is complete is it on the phone, whatever happens to the page.
      transaction.oncomplete = function () { resolve(asked.result); };
      transaction.onerror = function () { reject(transaction.error); };
      transaction.onabort = function () { reject(transaction.error); };
    });
  }

  function all() { return run('queue', 'readonly', function (s) { return s.getAll(); }); }
  function put(entry) { return run('queue', 'readwrite', function (s) { return s.put(entry); }); }
  function remove(id) { return run('queue', 'readwrite', function (s) { return s.delete(id); }); }
  function keep(name, value) { return run('kept', 'readwrite', function (s) { return s.put({ name: name, value: value }); }); }
  async function kept(name) {
    const row = await run('kept', 'readonly', function (s) { return s.get(name); });
    return row ? row.value : null;
  }

  async function fetchJson(path, options) {
    // A login that has ended answers with a redirect; it must not be followed into a page.
    const answer = await fetch(path, Object.assign({ redirect: 'manual', credentials: 'same-origin', cache: 'no-store' }, options));
    if (answer.type !== 'opaqueredirect' && !answer.ok) { await answer.text(); }
    if (answer.type === 'opaqueredirect' || answer.status === 401) { return { out: 'login' }; }
    if (answer.status === 403) { return { out: 'right' }; }
    if (!answer.ok) { throw Object.assign(new Error('status ' + answer.status), { status: answer.status }); }
    return answer.json();
  }

  // What the server will never take as it is, however often it is sent; anything else is tried again.
  function isRefused(error) { return error.status >= 400 && error.status < 500 && error.status !== 408 && error.status !== 429; }

  async function refuse(id, error) {
    const entry = (await all()).find(function (one) { return one.id === id; });
    if (!entry) { return; }
    entry.problem = error.status === 413 ? 'It is larger than the server takes.' : 'The server could not read it (' + error.status + ').';
    await put(entry);
  }

  // `out` when nobody is logged in; throws when there is no signal.
  function snapshot() { return fetchJson('/field/snapshot', { method: 'GET' }); }

  function plain(entry) {
    return Object.assign({ id: entry.id, noted_at: entry.noted_at, noted_on: entry.noted_on, kind: entry.kind }, entry.say);
  }

  function postEntries(entries, who, token) {
    return fetchJson('/field/sync', {
      method: 'POST', headers: { 'Content-Type': 'application/json', 'X-Form-Token': token },
      body: JSON.stringify({ account: who.account, school: who.school, entries: entries.map(plain) }),
    });
  }

  async function postPhoto(entry, token) {
    const form = new FormData();
    ['id', 'account', 'school', 'noted_at', 'noted_on'].forEach(function (name) { form.append(name, entry[name]); });
    Object.keys(entry.say).forEach(function (name) { form.append(name, entry.say[name] || ''); });
    form.append('form_token', token);
    form.append('file', new File([entry.blob], 'photo.jpg', { type: entry.blob.type }));
    const answer = await fetchJson('/field/photos', { method: 'POST', headers: { 'X-Form-Token': token }, body: form });
    return answer.out ? answer : { results: [answer] };
  }

  async function settle(results) {
    for (const result of results) {
      if (result.is === 'kept') { await remove(result.id); }
      if (result.is === 'refused') {
        const entry = (await all()).find(function (one) { return one.id === result.id; });
        if (entry) { entry.problem = result.words; await put(entry); }
      }
    }
  }

  // Some entries at once; where the server takes none of them, one by one, so that only what is wrong stays behind.
  async function sendSome(entries, who, token) {
    try {
      const answer = await postEntries(entries, who, token);
      if (answer.out) { return answer.out; }
      await settle(answer.results);
      return '';
    } catch (error) {
      if (!isRefused(error)) { throw error; }
      if (entries.length === 1) { await refuse(entries[0].id, error); return ''; }
      for (const entry of entries) {
        const out = await sendSome([entry], who, token);
        if (out) { return out; }
      }
      return '';
    }
  }

  // Photos one by one. One that the server chokes on is tried again later and holds up none behind it.
  async function sendPhotos(photos, token) {
    let choked = null;
    for (const entry of photos) {
      try {
        const answer = await postPhoto(entry, token);
        if (answer.out) { return answer.out; }
        await settle(answer.results);
      } catch (error) {
        if (!error.status) { throw error; } // no signal
        if (isRefused(error)) { await refuse(entry.id, error); } else { choked = error; }
      }
    }
    if (choked) { throw choked; }
    return '';
  }

  function byInstant(a, b) { return Date.parse(a.noted_at) - Date.parse(b.noted_at) || a.order - b.order; }

  // Everything here is done by one at a time, also of two pages that are open.
  function alone(work) { return navigator.locks ? navigator.locks.request('almanaque-send', work) : work(); }

  // Send what belongs to whoever is logged in, oldest first. Says 'sent', or who is missing.
  function send(who, token) {
    return alone(async function () {
      const mine = (await all()).filter(function (e) { return e.account === who.account && e.school === who.school && !e.problem && !e.held; });
      mine.sort(byInstant);
      const said = mine.filter(function (e) { return e.kind !== 'photo'; });
      for (let at = 0; at < said.length; at += 20) {
        const out = await sendSome(said.slice(at, at + 20), who, token);
        if (out) { return out; }
      }
      return await sendPhotos(mine.filter(function (e) { return e.kind === 'photo'; }), token) || 'sent';
    });
  }

  // Keep an entry back while it is being changed; null when it has gone meanwhile.
  function hold(id) {
    return alone(async function () {
      const entry = (await all()).find(function (one) { return one.id === id; });
      if (entry) { await put(Object.assign(entry, { held: true })); }
      return entry || null;
    });
  }

  // Let those go that a page was closed over.
  async function letGo(id) {
    for (const entry of await all()) {
      if (entry.held && (!id || entry.id === id)) { await put(Object.assign(entry, { held: false })); }
    }
  }

  // An answer that was changed before it could be sent gives way to the last one.
  async function tidy() {
    const newest = {};
    const entries = await all();
    entries.forEach(function (e) { if (e.key && !e.problem && (!newest[e.key] || e.order > newest[e.key].order)) { newest[e.key] = e; } });
    for (const entry of entries) {
      if (entry.key && !entry.problem && newest[entry.key].id !== entry.id) { await remove(entry.id); }
    }
  }

  // Scaled on the phone, so that a queue of photos is small and goes quickly once there is a signal.
  async function shrink(file) {
    try {
      const picture = await createImageBitmap(file, { imageOrientation: 'from-image' });
      const scale = Math.min(1, 1600 / Math.max(picture.width, picture.height));
      const canvas = document.createElement('canvas');
      canvas.width = Math.round(picture.width * scale);
      canvas.height = Math.round(picture.height * scale);
      canvas.getContext('2d').drawImage(picture, 0, 0, canvas.width, canvas.height);
      const blob = await new Promise(function (resolve) { canvas.toBlob(resolve, 'image/jpeg', 0.85); });
      return blob || file;
    } catch (error) {
      return file; // the server says what is wrong with it
    }
  }

  return { all: all, put: put, remove: remove, keep: keep, kept: kept, snapshot: snapshot, send: send, hold: hold, letGo: letGo, shrink: shrink, tidy: tidy };
})();
