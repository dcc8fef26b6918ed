// Small things every page has: the list of keys, printing, menus that close, and a word when the server is out of reach.
document.addEventListener('keydown', function (event) {
  if (event.target.closest('input, select, textarea') || event.ctrlKey || event.metaKey || event.altKey) { return; }
  if (event.key === '?') {
    var list = document.getElementById('keys');
    if (list && !list.open) { list.showModal(); }
  }
  if (event.key === 'Escape') { closeMenus(null); }
});

// On a narrow screen the top bar scrolls sideways: begin with the one that is open in sight.
document.addEventListener('DOMContentLoaded', function () {
  document.querySelectorAll('.top-bar [aria-current], .subnav [aria-current]').forEach(function (link) {
    if (link.parentElement.scrollWidth > link.parentElement.clientWidth) { link.parentElement.scrollLeft = link.offsetLeft - 40; }
  });
});

function closeMenus(except) {
  document.querySelectorAll('details.menu[open]').forEach(function (menu) { if (menu !== except) { menu.open = false; } });
}

document.addEventListener('click', function (event) {
  closeMenus(event.target.closest('details.menu'));
  if (event.target.closest('[data-print]')) { window.print(); }
});

function say(sentence) {
  var place = document.getElementById('message');
  var line = document.createElement('p');
  line.className = 'message';
  line.textContent = sentence;
  place.replaceChildren(line);
  place.scrollIntoView({ block: 'nearest' });
}
document.addEventListener('htmx:sendError', function () { say('The server cannot be reached. Nothing was changed; try again in a moment.'); });
document.addEventListener('htmx:beforeRequest', function (event) {
  if (event.detail.requestConfig.verb === 'post') { document.getElementById('message').replaceChildren(); }
});
// htmx knows only buttons that were clicked inside their form. The event itself knows the button in every case: by key,
// by Enter in a field, and for a button that stands outside and names its form.
document.addEventListener('htmx:configRequest', function (event) {
  var submitter = event.detail.triggeringEvent && event.detail.triggeringEvent.submitter;
  if (submitter && submitter.name) { event.detail.parameters[submitter.name] = submitter.value; }
});

// A refusal stands by the field it speaks of, in the form that was sent, and nothing moves above it.
document.addEventListener('htmx:beforeSwap', function (event) {
  var form = event.detail.requestConfig && event.detail.requestConfig.elt && event.detail.requestConfig.elt.closest('form');
  if (!form) { return; }
  form.querySelectorAll('.field-error[data-sent]').forEach(function (old) { old.remove(); });
  form.querySelectorAll('[aria-invalid][data-sent]').forEach(function (field) { field.removeAttribute('aria-invalid'); field.removeAttribute('aria-describedby'); field.removeAttribute('data-sent'); });
  if (event.detail.xhr.status < 400) { return; }
  var told = new DOMParser().parseFromString(event.detail.serverResponse, 'text/html');
  var name = event.detail.xhr.getResponseHeader('X-Field'), wrong = {};
  if (name) { wrong[name] = told.body.textContent.trim(); }
  told.querySelectorAll('[data-error-of]').forEach(function (line) { wrong[line.dataset.errorOf] = line.textContent.trim(); });
  var places = Object.keys(wrong).map(function (one) { return placeOf(form, one); });
  if (!places.length || places.some(function (place) { return !place; })) { return; }
  event.detail.shouldSwap = false;
  var lines = Object.keys(wrong).map(function (one, at) { return tell(form, one, places[at], wrong[one]); });
  var first = places[0], shown = first.closest('.combo') ? first.closest('.combo').querySelector('input') : first;
  if (first !== form && (form.contains(document.activeElement) || document.activeElement === document.body)) { shown.focus({ preventScroll: true }); }
  lines[0].scrollIntoView({ block: 'nearest' });
  document.getElementById('announce').textContent = lines.map(function (line) { return line.textContent; }).join(' ');
});
// The field a sentence speaks of; the form itself for one that speaks of none. Null where it is not shown.
function placeOf(form, name) {
  if (!name) { return form; }
  var field = form.elements.namedItem(name);
  if (field && field.length && !field.options) { field = field[0]; }
  return field && field.getBoundingClientRect && field.type !== 'hidden' ? field : null;
}
function tell(form, name, place, sentence) {
  var line = document.createElement('p');
  line.className = 'field-error';
  line.id = 'error-of-' + name;
  line.dataset.sent = 'yes';
  line.textContent = sentence;
  if (place === form) { form.prepend(line); return line; }
  var folded = place.closest('details');
  if (folded) { folded.open = true; }
  (place.closest('.line-form') || place.closest('.combo') || place).after(line);
  place.setAttribute('aria-invalid', 'true');
  place.setAttribute('aria-describedby', line.id);
  place.dataset.sent = 'yes';
  return line;
}

// A form that was sent waits for its answer: a second press sends nothing, and its buttons show that it works. What was
// answered gets a new number, since what is sent next is something else; what was not keeps its own, so that it is written once.
(function () {
  var MOST_TRIES = 5;
  var LONGEST_MS = 30000; // an answer that is a file leaves the page as it is
  function numberAnew(form) {
    var field = form.querySelector('input[name=once]');
    if (!field) { return; }
    var bytes = crypto.getRandomValues(new Uint8Array(16));
    bytes[6] = bytes[6] & 0x0f | 0x40;
    bytes[8] = bytes[8] & 0x3f | 0x80;
    var hex = Array.from(bytes, function (byte) { return byte.toString(16).padStart(2, '0'); }).join('');
    field.value = [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
  }
  function wait(form) { form.setAttribute('aria-busy', 'true'); }
  function free(form) { form.removeAttribute('aria-busy'); }
  function formOf(event) {
    var form = event.detail.elt && event.detail.elt.closest('form');
    if (form && event.detail.elt.hasAttribute('data-looks')) { return null; } // writes nothing, and nobody waits for it
    return form && event.detail.requestConfig.verb === 'post' ? form : null;
  }
  document.addEventListener('submit', function (event) {
    if (event.target.getAttribute('aria-busy') === 'true') { event.target.dataset.again = 'yes'; event.preventDefault(); event.stopImmediatePropagation(); }
  }, true);
  window.addEventListener('submit', function (event) {
    var form = event.target;
    if (event.defaultPrevented || form.getAttribute('method') !== 'post') { return; }
    wait(form);
    setTimeout(function () { free(form); }, LONGEST_MS);
  });
  document.addEventListener('htmx:beforeRequest', function (event) {
    var form = formOf(event);
    if (form && !event.defaultPrevented) { wait(form); }
  });
  document.addEventListener('htmx:afterRequest', function (event) {
    var form = formOf(event);
    if (!form) { return; }
    free(form);
    if (event.detail.xhr && event.detail.xhr.status > 0 && event.detail.xhr.status < 500) { numberAnew(form); }
  });
  // What was not begun because too many were here is sent again by itself, under the same number.
  var tries = new WeakMap();
  document.addEventListener('htmx:afterRequest', function (event) {
    var form = formOf(event), xhr = event.detail.xhr;
    if (!form || !xhr) { return; }
    var after = xhr.status === 503 ? Number(xhr.getResponseHeader('Retry-After')) : 0;
    var tried = after ? (tries.get(form) || 0) + 1 : 0;
    tries.set(form, tried);
    if (!after || tried > MOST_TRIES) { return; }
    var submitter = event.detail.requestConfig.triggeringEvent && event.detail.requestConfig.triggeringEvent.submitter;
    wait(form);
    setTimeout(function () {
      free(form);
      if (form.isConnected) { form.requestSubmit(submitter && submitter.isConnected && form.contains(submitter) ? submitter : null); }
    }, after * 1000);
  });
  window.addEventListener('pageshow', function (event) {
    document.querySelectorAll('form[aria-busy]').forEach(free);
    if (event.persisted) { document.querySelectorAll('form').forEach(numberAnew); }
  });
})();
// Where the middle of a page was replaced after a write, the keyboard goes on from its top, and a voice hears of it. At once:
// settled a moment later, it would take the focus from a hand that has gone on.
document.addEventListener('htmx:afterSwap', function (event) {
  if (event.detail.requestConfig && event.detail.requestConfig.verb === 'post' && event.detail.target && event.detail.target.id === 'main') {
    var main = document.getElementById('main');
    if (main === document.activeElement || !main.contains(document.activeElement)) { main.focus({ preventScroll: true }); }
    document.getElementById('announce').textContent = 'Done.';
  }
});
// A ticked job keeps the keyboard where it was.
document.addEventListener('htmx:afterSwap', function (event) {
  var job = event.detail.target && event.detail.target.id && document.getElementById(event.detail.target.id);
  var tick = job && job.classList.contains('job') && job.querySelector('.tick');
  if (tick) { tick.focus(); }
});

// A press counts for the button or link it began on, though an answer that came in meanwhile has moved it from under the pointer,
// or drawn it anew. The browser then gives the click to what holds both places, or to nothing, and it would be lost.
(function () {
  var pressed = null;
  var at = [0, 0];
  function near(event) { return Math.abs(event.clientX - at[0]) <= 4 && Math.abs(event.clientY - at[1]) <= 4; }
  document.addEventListener('pointerdown', function (event) {
    pressed = event.isPrimary && event.button === 0 ? event.target.closest('button, a[href]') : null;
    // A second press while the first is under way is none: its answer may come before the button is let go.
    if (pressed && pressed.form && pressed.form.getAttribute('aria-busy') === 'true') { pressed = null; }
    at = [event.clientX, event.clientY];
  }, true);
  // A finger's tap finds what lies there when it ends, by itself.
  document.addEventListener('pointerup', function (event) {
    var before = pressed;
    if (!before || before.isConnected || event.pointerType !== 'mouse' || event.ctrlKey || event.metaKey || !near(event)) { return; }
    pressed = null;
    var alike = Array.from(document.querySelectorAll(before.localName)).filter(function (one) { return one.outerHTML === before.outerHTML; });
    if (alike.length === 1) { setTimeout(function () { alike[0].click(); }); }
  }, true);
  document.addEventListener('click', function (event) {
    var button = pressed;
    pressed = null;
    if (!button || !event.isTrusted || !button.isConnected || event.target.closest('button, a[href]') || !event.target.contains(button)) { return; }
    if (!near(event)) { return; }
    event.stopPropagation();
    button.click();
  }, true);
})();
