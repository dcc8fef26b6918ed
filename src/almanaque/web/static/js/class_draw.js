// A team draws on its plan: by pointer, finger and keys. Each mark is kept on the tablet before it is drawn, has a number of its own,
// and is sent until it is in; what other tablets of the team draw comes within seconds. The server lays the plants out and counts them.
(function () {
  var NS = 'http://www.w3.org/2000/svg', EVERY_MS = 2000, AGAIN_MS = 3000, NOTES_MS = 1200, MOST_AT_ONCE = 200;
  var room = document.getElementById('class-drawing');
  if (!room) { return; }
  var plan = document.getElementById('plan'), plants = document.getElementById('plan-plants'), things = document.getElementById('plan-things');
  var tooFew = document.getElementById('plan-too-few');
  var pending = document.getElementById('plan-waiting'), counts = document.getElementById('class-counts'), said = document.getElementById('class-said');
  var undo = document.getElementById('class-undo'), redo = document.getElementById('class-redo');
  var shelf = 'class marks ' + room.dataset.shelf, version = Number(room.dataset.version), squares = JSON.parse(room.dataset.squares);
  var state = load(), stroke = null, sending = false, atOnce = MOST_AT_ONCE, notesDue = null, cells = {};

  Array.from(plan.querySelectorAll('.class-square')).forEach(function (cell) { cells[cell.dataset.at] = cell; });

  // Where the page comes without https a browser has no numbers of its own making.
  function newId() {
    if (crypto.randomUUID) { return crypto.randomUUID(); }
    var drawn = Array.from(crypto.getRandomValues(new Uint8Array(16)), function (byte) { return byte.toString(16).padStart(2, '0'); }).join('');
    return [drawn.slice(0, 8), drawn.slice(8, 12), '4' + drawn.slice(13, 16), '8' + drawn.slice(17, 20), drawn.slice(20)].join('-');
  }

  // marks: not sent yet. done and undone: strokes of this tablet, which it can take back.
  function load() {
    try { return Object.assign({ marks: [], done: [], undone: [], backs: [] }, JSON.parse(localStorage.getItem(shelf) || '{}')); }
    catch (error) { return { marks: [], done: [], undone: [], backs: [] }; }
  }
  function keep() { try { localStorage.setItem(shelf, JSON.stringify(state)); } catch (error) { /* a browser that keeps nothing */ } }

  function chosen() { return document.querySelector('.class-pick[aria-checked=true]') || document.querySelector('.class-pick[data-what]'); }
  function names(what) { var pick = document.querySelector('.class-pick[data-what="' + what + '"]'); return pick ? pick.dataset.name : ''; }
  function picture(what) { var image = document.querySelector('.class-pick[data-what="' + what + '"] img'); return image ? image.getAttribute('src') : ''; }

  // What a square holds with what waits.
  function held(at) {
    for (var n = state.marks.length - 1; n >= 0; n -= 1) { if (state.marks[n][2] + ',' + state.marks[n][3] === at) { return state.marks[n][4]; } }
    return squares[at] || '';
  }
  function mark(at, what) {
    if (!cells[at] || held(at) === what) { return; }
    var where = at.split(',').map(Number);
    state.marks.push([newId(), stroke, where[0], where[1], what]);
    if (state.done.indexOf(stroke) < 0) { state.done.push(stroke); state.undone = []; }
    keep();
    drawWaiting();
    buttons();
    setTimeout(send);
  }
  function drawWaiting() {
    var latest = {};
    state.marks.forEach(function (one) { latest[one[2] + ',' + one[3]] = one[4]; });
    pending.replaceChildren();
    Object.keys(latest).forEach(function (at) {
      var cell = cells[at], what = latest[at];
      if (!cell) { return; }
      pending.appendChild(rect(cell, what ? 'class-waiting' : 'class-waiting is-clear'));
      if (what) { pending.appendChild(image(cell, what)); }
      label(at);
    });
  }
  // Squares that hold no plant yet, since a plant takes a block of them: they show whose they are.
  function drawTooFew(list) {
    tooFew.replaceChildren();
    list.forEach(function (at) {
      var cell = cells[at];
      if (cell) { tooFew.appendChild(rect(cell, 'class-too-few')); tooFew.appendChild(image(cell, squares[at])); }
    });
  }
  function rect(cell, name) {
    var tint = document.createElementNS(NS, 'rect');
    ['x', 'y', 'width', 'height'].forEach(function (key) { tint.setAttribute(key, cell.getAttribute(key)); });
    tint.setAttribute('class', name);
    return tint;
  }
  function image(cell, what) {
    var drawn = document.createElementNS(NS, 'image'), size = Number(cell.getAttribute('width')) * 0.8;
    drawn.setAttribute('href', picture(what));
    drawn.setAttribute('x', Number(cell.getAttribute('x')) + size / 8);
    drawn.setAttribute('y', Number(cell.getAttribute('y')) + size / 8);
    drawn.setAttribute('width', size);
    drawn.setAttribute('height', size);
    return drawn;
  }
  function label(at) { cells[at].setAttribute('aria-label', cells[at].dataset.name + ', ' + (names(held(at)) || 'empty')); }
  function buttons() {
    undo.disabled = !state.done.length;
    redo.disabled = !state.undone.length;
  }

  function take(found) {
    if (found.version < version) { return; }
    var changed = found.version !== version;
    version = found.version;
    squares = found.squares;
    plants.replaceChildren.apply(plants, found.plants.map(function (p) {
      var image = document.createElementNS(NS, 'image');
      image.setAttribute('href', p[5]);
      image.setAttribute('x', p[3]);
      image.setAttribute('y', p[3]);
      image.setAttribute('width', p[2]);
      image.setAttribute('height', p[2]);
      image.setAttribute('transform', 'translate(' + p[0] + ' ' + p[1] + ') rotate(' + p[4] + ')');
      return image;
    }));
    things.replaceChildren.apply(things, found.things.map(function (t) {
      var image = document.createElementNS(NS, 'image');
      image.setAttribute('href', t[3]);
      image.setAttribute('x', t[0]);
      image.setAttribute('y', t[1]);
      image.setAttribute('width', t[2]);
      image.setAttribute('height', t[2]);
      return image;
    }));
    drawTooFew(found.too_few);
    counts.replaceChildren.apply(counts, found.counts.map(function (c) {
      var row = document.createElement('li'), number = document.createElement('b'), in_ = document.createElement('span');
      row.dataset.crop = c[0];
      number.textContent = c[2];
      in_.className = 'second';
      in_.textContent = ' in ' + c[3] + (c[3] === 1 ? ' square' : ' squares');
      row.append(number, ' ' + c[1], in_);
      return row;
    }));
    document.getElementById('class-none').hidden = found.counts.length > 0;
    plan.setAttribute('aria-label', found.says);
    Object.keys(cells).forEach(label);
    drawWaiting();
    if (changed) { notesSoon(); }
  }

  function post(address, fields) {
    fields.form_token = room.dataset.token;
    return fetch(address, { method: 'POST', body: new URLSearchParams(fields), credentials: 'same-origin' }).then(function (answer) {
      if (answer.status >= 500 || answer.status === 429) { throw new Error('busy'); }
      if (answer.status === 403) { window.location = '/class?over=1'; throw new Error('over'); }
      return answer.json().catch(function () { return { error: 'That could not be kept. Load the page again.' }; });
    });
  }
  // What was drawn goes first, then what was taken back, so that a stroke is there before it is set aside. Where one mark of many is
  // refused they go one by one, so that only that one is left out.
  function send() {
    if (sending || !(state.marks.length || state.backs.length)) { return; }
    sending = true;
    var some = state.marks.slice(0, atOnce), back = some.length ? null : state.backs[0];
    post(back ? '/class/strokes' : '/class/marks', back ? { stroke: back[0], back: back[1] } : { marks: JSON.stringify(some, null, 1) })
      .then(function (found) {
        sending = false;
        if (found.error && some.length > 1) { atOnce = 1; send(); return; }
        if (back) { state.backs.shift(); } else { state.marks.splice(0, some.length); }
        if (!state.marks.length) { atOnce = MOST_AT_ONCE; }
        keep();
        if (found.error) { said.textContent = found.error; drawWaiting(); } else { said.textContent = ''; take(found); }
        send();
      })
      .catch(function () {
        sending = false;
        said.textContent = 'Not sent yet. Your drawing is kept on this tablet.';
        setTimeout(send, AGAIN_MS);
      });
  }
  function poll() {
    if (!document.hidden && !sending && !state.marks.length) {
      fetch('/class/plan?version=' + version, { credentials: 'same-origin' }).then(function (answer) {
        if (answer.status === 403) { window.location = '/class?over=1'; return; }
        if (answer.status === 200) { return answer.json().then(take); }
      }).catch(function () { /* asked again soon */ });
    }
    setTimeout(poll, EVERY_MS);
  }
  function notesSoon() {
    clearTimeout(notesDue);
    notesDue = setTimeout(function () {
      fetch('/class/notes', { credentials: 'same-origin' }).then(function (answer) {
        if (!answer.ok) { return; }
        return answer.text().then(function (html) {
          var part = new DOMParser().parseFromString(html, 'text/html').body, place = document.getElementById('class-notes');
          if (part.innerHTML !== place.innerHTML) { place.replaceChildren.apply(place, Array.from(part.childNodes)); }
        });
      }).catch(function () { /* with the next change */ });
    }, NOTES_MS);
  }

  function takeBack(from, to, back) {
    var last = from.pop();
    if (!last) { return; }
    to.push(last);
    state.backs.push([last, back]);
    keep();
    buttons();
    send();
  }
  undo.addEventListener('click', function () { takeBack(state.done, state.undone, '1'); });
  redo.addEventListener('click', function () { takeBack(state.undone, state.done, '0'); });

  function choose(pick) {
    document.querySelectorAll('.class-pick').forEach(function (one) { one.setAttribute('aria-checked', String(one === pick)); one.tabIndex = one === pick ? 0 : -1; });
  }
  var picks = Array.from(document.querySelectorAll('.class-pick'));
  picks.forEach(function (pick, at) {
    pick.tabIndex = pick.getAttribute('aria-checked') === 'true' ? 0 : -1;
    pick.addEventListener('click', function () { choose(pick); });
    pick.addEventListener('keydown', function (event) {
      var by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
      if (!by) { return; }
      event.preventDefault();
      var next = picks[(at + by + picks.length) % picks.length];
      choose(next);
      next.focus();
    });
  });

  // The square under a point, so that a fast finger that jumps over squares fills those between as well.
  function under(event) {
    var point = new DOMPoint(event.clientX, event.clientY).matrixTransform(plan.getScreenCTM().inverse());
    return Object.keys(cells).find(function (at) {
      var c = cells[at], x = Number(c.getAttribute('x')), y = Number(c.getAttribute('y'));
      return point.x >= x && point.x < x + Number(c.getAttribute('width')) && point.y >= y && point.y < y + Number(c.getAttribute('height'));
    });
  }
  function between(from, to) {
    var a = from.split(',').map(Number), b = to.split(',').map(Number), steps = Math.max(Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])), found = [];
    for (var n = 1; n <= steps; n += 1) { found.push(Math.round(a[0] + (b[0] - a[0]) * n / steps) + ',' + Math.round(a[1] + (b[1] - a[1]) * n / steps)); }
    return found;
  }
  var last = null, what = '';
  plan.addEventListener('pointerdown', function (event) {
    var at = under(event);
    if (!at || event.button) { return; }
    event.preventDefault();
    plan.setPointerCapture(event.pointerId);
    stroke = newId();
    what = chosen().dataset.what;
    last = at;
    mark(at, what);
  });
  plan.addEventListener('pointermove', function (event) {
    if (last === null) { return; }
    var at = under(event);
    if (!at || at === last) { return; }
    between(last, at).forEach(function (one) { mark(one, what); });
    last = at;
  });
  ['pointerup', 'pointercancel'].forEach(function (name) { plan.addEventListener(name, function () { last = null; }); });

  plan.addEventListener('keydown', function (event) {
    var cell = event.target.closest('.class-square');
    if (!cell) { return; }
    var at = cell.dataset.at.split(',').map(Number), by = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1] }[event.key];
    if (by) {
      event.preventDefault();
      var next = cells[(at[0] + by[0]) + ',' + (at[1] + by[1])];
      if (next) { cell.tabIndex = -1; next.tabIndex = 0; next.focus(); }
    } else if (event.key === 'Enter' || event.key === ' ') {
      event.preventDefault();
      stroke = newId();
      mark(cell.dataset.at, chosen().dataset.what);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      stroke = newId();
      mark(cell.dataset.at, '');
    }
  });
  document.addEventListener('keydown', function (event) {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') { return; }
    event.preventDefault();
    (event.shiftKey ? redo : undo).click();
  });

  buttons();
  drawWaiting();
  send();
  notesSoon();
  setTimeout(poll, EVERY_MS);
}());
