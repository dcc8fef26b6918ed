// Strokes on a bed: drawn at once, sent one after another, and taken back with a word when the server refuses. Strokes of one kind that
// wait together are sent together; each has a number of its own, so that one sent again is written once. What waits is kept with the tab
// before it is drawn, and sent when the bed is opened again: by the same account, to the same bed.
window.BedStrokes = (function () {
  var NS = 'http://www.w3.org/2000/svg';
  var JOINED = { pencil: true, ink: true, rub: true };
  var SLICE_MS = 5; // of drawing at a time, on a quick machine; four times that on a slow one
  var MOST_KNOWN = 4000; // signs of a header, which proxies refuse when it is long; what is not named comes in full
  var waiting = [], sending = null, looking = false, taking = Promise.resolve();

  function sheet() { return document.getElementById('sheet'); }
  function form() { return document.getElementById('paint'); }
  function shelf() { return 'strokes ' + form().dataset.account + ' ' + new URL(form().action).pathname; }
  function keep() {
    var all = (sending ? [sending] : []).concat(waiting);
    try { if (all.length) { sessionStorage.setItem(shelf(), JSON.stringify(all)); } else { sessionStorage.removeItem(shelf()); } } catch (error) { /* a browser that keeps nothing */ }
  }
  function resume() {
    if (!form()) { return; }
    try { waiting = JSON.parse(sessionStorage.getItem(shelf()) || '[]'); } catch (error) { waiting = []; }
    if (!waiting.length) { return; }
    draw();
    say('What was painted here before and not sent yet is sent now.');
    next();
  }
  function version() {
    var shown = sheet().querySelector('input[name=version]');
    return shown ? shown.value : '';
  }
  function cell(name) { return sheet().querySelector('.cell[data-cell="' + name + '"]'); }

  function draw() {
    var picture = sheet() && sheet().querySelector('.bed-picture');
    if (!picture) { return; }
    var old = picture.querySelector('.strokes');
    if (old) { old.remove(); }
    var all = (sending ? [sending] : []).concat(waiting);
    if (!all.length) { return; }
    var group = document.createElementNS(NS, 'g');
    group.setAttribute('class', 'strokes');
    group.setAttribute('aria-hidden', 'true');
    all.forEach(function (stroke) {
      if (!JOINED[stroke.command]) { return; }
      stroke.squares.forEach(function (name) {
        var under = cell(name);
        if (!under) { return; }
        var mark = document.createElementNS(NS, 'rect');
        ['x', 'y', 'width', 'height'].forEach(function (key) { mark.setAttribute(key, under.getAttribute(key)); });
        mark.setAttribute('class', 'stroke is-' + stroke.command);
        group.appendChild(mark);
        if (stroke.command === 'rub' || !stroke.code) { return; }
        var text = document.createElementNS(NS, 'text');
        text.setAttribute('x', Number(under.getAttribute('x')) + Number(under.getAttribute('width')) / 2);
        text.setAttribute('y', Number(under.getAttribute('y')) + Number(under.getAttribute('height')) / 2 + 4);
        text.setAttribute('class', 'code');
        text.textContent = stroke.code;
        group.appendChild(text);
      });
    });
    picture.appendChild(group);
  }

  // The digests of the parts shown, by which the server leaves out what need not be drawn again.
  function known() {
    return Array.from(sheet().querySelectorAll('[data-digest]'), function (part) { return part.dataset.digest; }).join(' ').slice(0, MOST_KNOWN);
  }
  // An answer's sheet in the place of this one: only the parts that are others than those shown are touched, since a bed may have a
  // thousand squares and plants, and a few at a time, so that the hand is never waited for. A promise of the squares that were drawn
  // anew; null for an answer that is no sheet.
  function parsed(html) { return new DOMParser().parseFromString(html, 'text/html').getElementById('sheet'); }
  function take(html) {
    var next = parsed(html);
    if (!next) { return null; }
    return inTurn(function () { return merge(next); });
  }
  function merge(next) {
    var now = sheet(), cells = [], shown = {}, jobs = [], missing = false;
    if (next.dataset.frame !== now.dataset.frame) {
      if (next.querySelector('[data-same]')) { return whole(); }
      now.replaceWith(next);
      htmx.process(next);
      return Array.from(next.querySelectorAll('.cell'));
    }
    // A part that was left out as known, but has become another since it was asked for, is fetched.
    now.querySelectorAll('[data-part]').forEach(function (part) { shown[part.dataset.part] = part; });
    next.querySelectorAll('[data-same]').forEach(function (part) {
      var old = shown[part.dataset.part];
      missing = missing || !old || old.dataset.digest !== part.dataset.digest;
    });
    if (missing) { return whole(); }
    next.querySelectorAll('[data-parts]').forEach(function (list) {
      jobs.push(function () { arrange(now.querySelector('[data-parts="' + list.dataset.parts + '"]'), list); });
    });
    next.querySelectorAll('[data-part]:not([data-same])').forEach(function (part) {
      var old = shown[part.dataset.part];
      if (!old || old.parentNode.dataset.parts || old.dataset.digest === part.dataset.digest) { return; }
      jobs.push(function () {
        put(part, old);
        cells.push.apply(cells, part.getElementsByClassName('cell'));
      });
    });
    return slices(jobs).then(function () {
      var said = document.getElementById('said'), says = next.querySelector('#said');
      said.textContent = says.textContent;
      said.className = says.className;
      now.toggleAttribute('data-stale', next.hasAttribute('data-stale'));
      now.removeAttribute('aria-busy');
      return cells;
    });
  }
  // One drawing after another. What goes wrong in one must not hold up the next: the page is loaded anew, and what waits is sent from there.
  function inTurn(draws) {
    taking = taking.then(breathe).then(draws).catch(function () { window.location.reload(); return []; });
    return taking;
  }
  function breathe() { return new Promise(function (resolve) { setTimeout(resolve); }); }
  function slices(jobs) {
    return new Promise(function (resolve, reject) {
      (function some() {
        var until = performance.now() + SLICE_MS;
        try { while (jobs.length && performance.now() < until) { jobs.shift()(); } } catch (error) { reject(error); return; }
        if (jobs.length) { setTimeout(some); } else { resolve(); }
      }());
    });
  }
  function process(part) { if (part.querySelector('[hx-get], [hx-post]')) { htmx.process(part); } }
  function put(part, shown) {
    var focused = shown.contains(document.activeElement) && document.activeElement.dataset.cell;
    shown.replaceWith(part);
    process(part);
    var again = focused && part.querySelector('[data-cell="' + focused + '"]');
    if (again) { again.setAttribute('tabindex', '0'); again.focus({ preventScroll: true }); }
  }
  // A list's parts in the answer's order; those that are the same stay where they are.
  function arrange(list, wanted) {
    var at = list.firstElementChild, shown = {};
    Array.from(list.children).forEach(function (part) { shown[part.dataset.part] = part; });
    Array.from(wanted.children).forEach(function (part) {
      var one = shown[part.dataset.part], same = one && one.dataset.digest === part.dataset.digest;
      delete shown[part.dataset.part];
      if (one && !same) { if (at === one) { at = one.nextElementSibling; } one.remove(); }
      if (same && one === at) { at = at.nextElementSibling; return; }
      list.insertBefore(same ? one : part, at);
      if (!same) { process(part); }
    });
    Object.keys(shown).forEach(function (name) { shown[name].remove(); });
  }

  function snapshot() {
    var values = {};
    new FormData(form()).forEach(function (value, name) { if (name !== 'squares' && name !== 'once' && name !== 'tool' && name !== 'command') { values[name] = value; } });
    return values;
  }
  function alike(a, b) { return JOINED[a.command] && a.command === b.command && a.key === b.key; }

  // One command with its squares; it is drawn before this returns.
  function add(command, squares, more) {
    var values = Object.assign(snapshot(), more || {}), choice = document.getElementById('choice');
    var kept = Object.assign({}, values);
    delete kept.version;
    waiting.push({ command: command, squares: squares.slice(), values: values, key: JSON.stringify(kept), code: choice ? choice.dataset.code || '' : '', once: crypto.randomUUID(), action: form().getAttribute('action'), tries: 0 });
    keep();
    draw();
    setTimeout(next);
  }

  function next() {
    if (sending || looking || !waiting.length) { return; }
    sending = waiting.shift();
    // One that was sent before goes again as it was, since its number stands for what was in it.
    while (sending.version === undefined && waiting.length && alike(sending, waiting[0])) {
      var more = waiting.shift();
      sending.squares = Array.from(new Set(sending.squares.concat(more.squares)));
    }
    if (sending.version === undefined) { sending.version = version(); }
    keep();
    send();
  }
  function send() {
    var token = form().elements.form_token, stroke = { command: sending.command, squares: sending.squares.join(' '), once: sending.once, version: sending.version };
    if (token) { stroke.form_token = token.value; }
    var body = new URLSearchParams(Object.assign({}, sending.values, stroke));
    document.getElementById('sheet').setAttribute('aria-busy', 'true');
    fetch(sending.action, { method: 'POST', body: body, headers: { 'HX-Request': 'true', 'X-Known': known() }, credentials: 'same-origin', redirect: 'manual' })
      .then(function (answer) {
        if (answer.status === 503) { again(Number(answer.headers.get('Retry-After')) || 2); return null; }
        if (answer.type === 'opaqueredirect' || answer.headers.get('HX-Refresh')) { written(); return null; }
        if (answer.headers.get('HX-Redirect')) { window.location = answer.headers.get('HX-Redirect'); return null; }
        return answer.text().then(function (html) { done(answer, html); });
      })
      .catch(function () { again(2); });
  }
  // Not begun, or not heard of: the same again under the same number, for as long as the page is open.
  function again(seconds) {
    sending.tries += 1;
    if (sending.tries === 1) { say('The server cannot be reached. Your strokes are kept and sent as soon as it can.'); }
    setTimeout(send, Math.min(10, seconds) * 1000);
  }
  // It was written before, and only the answer was lost: the bed as it is now, before the next stroke is sent.
  function written() {
    sending = null;
    keep();
    looking = true;
    inTurn(whole).then(function (cells) { looking = false; answered([], cells); });
  }
  // The bed as it is now, with all its parts; a promise of its squares that were drawn anew.
  function whole() {
    var news = document.getElementById('news').getAttribute('hx-get').replace(/version=\d+/, 'version=0');
    return fetch(news, { headers: { 'HX-Request': 'true' }, credentials: 'same-origin' })
      .then(function (answer) { return answer.text(); })
      .then(function (html) {
        var next = parsed(html);
        if (!next) { throw new Error('no sheet'); }
        return merge(next);
      });
  }
  function done(answer, html) {
    var refused = answer.ok || !sending ? [] : sending.squares, taken = take(html);
    function over(cells) {
      sending = null;
      keep();
      answered(refused, cells);
    }
    if (taken) { taken.then(over); return; }
    sheet().removeAttribute('aria-busy');
    say(new DOMParser().parseFromString(html, 'text/html').body.textContent.trim() || 'That was refused. Load the page again.');
    over([]);
  }
  function answered(refused, cells) {
    document.dispatchEvent(new CustomEvent('bed:answered', { detail: { refused: refused, cells: cells } }));
    next();
  }
  function say(sentence) {
    var said = document.getElementById('said');
    if (said) { said.textContent = sentence; }
    document.getElementById('announce').textContent = sentence;
  }

  // A form that is sent by a button waits its turn behind the strokes.
  document.addEventListener('submit', function (event) {
    if (event.target !== form() || !event.submitter || event.submitter.name !== 'command') { return; }
    event.preventDefault();
    event.stopImmediatePropagation();
    document.dispatchEvent(new CustomEvent('bed:command', { detail: event.submitter.value }));
  }, true);

  if (document.readyState === 'loading') { document.addEventListener('DOMContentLoaded', resume); } else { resume(); }
  return { add: add, draw: draw, say: say, known: known, version: version, take: take, busy: function () { return Boolean(sending || looking || waiting.length); } };
}());
