// Strokes on a bed: drawn at once, sent one after another, and taken back with a word when the server refuses. Strokes of one kind that
// wait together are sent together; each has a number of its own, so that one sent again is written once. What waits is kept with the tab
// before it is drawn, and sent when the bed is opened again: by the same account, to the same bed.
window.BedStrokes = (function () {
  var NS = 'http://www.w3.org/2000/svg';
  var JOINED = { pencil: true, ink: true, rub: true };
  var waiting = [], sending = null;

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
    next();
  }

  function next() {
    if (sending || !waiting.length) { return; }
    sending = waiting.shift();
    // One that was sent before goes again as it was, since its number stands for what was in it.
    while (sending.version === undefined && waiting.length && alike(sending, waiting[0])) {
      var more = waiting.shift();
      sending.squares = Array.from(new Set(sending.squares.concat(more.squares)));
    }
    if (sending.version === undefined) {
      var version = sheet().querySelector('input[name=version]');
      sending.version = version ? version.value : '';
    }
    keep();
    send();
  }
  function send() {
    var token = form().elements.form_token, stroke = { command: sending.command, squares: sending.squares.join(' '), once: sending.once, version: sending.version };
    if (token) { stroke.form_token = token.value; }
    var body = new URLSearchParams(Object.assign({}, sending.values, stroke));
    document.getElementById('sheet').setAttribute('aria-busy', 'true');
    fetch(sending.action, { method: 'POST', body: body, headers: { 'HX-Request': 'true' }, credentials: 'same-origin', redirect: 'manual' })
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
  // It was written before, and only the answer was lost: the bed as it is now.
  function written() {
    sending = null;
    keep();
    var news = document.getElementById('news').getAttribute('hx-get').replace(/version=\d+/, 'version=0');
    fetch(news, { headers: { 'HX-Request': 'true' }, credentials: 'same-origin' })
      .then(function (answer) { return answer.text().then(function (html) { done(answer, html); }); })
      .catch(function () { window.location.reload(); });
  }
  function done(answer, html) {
    var stroke = sending;
    sending = null;
    keep();
    if (answer.ok || html.indexOf('id="sheet"') >= 0) {
      htmx.swap('#sheet', html, { swapStyle: 'outerHTML' });
    } else {
      sheet().removeAttribute('aria-busy');
      say(new DOMParser().parseFromString(html, 'text/html').body.textContent.trim() || 'That was refused. Load the page again.');
    }
    document.dispatchEvent(new CustomEvent('bed:answered', { detail: { refused: answer.ok || !stroke ? [] : stroke.squares } }));
    draw();
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
  return { add: add, draw: draw, say: say, busy: function () { return Boolean(sending || waiting.length); } };
}());
