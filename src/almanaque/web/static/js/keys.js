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
// Where the middle of a page was replaced after a write, the keyboard goes on from its top, and a voice hears of it. At once:
// settled a moment later, it would take the focus from a hand that has gone on.
document.addEventListener('htmx:afterSwap', function (event) {
  if (event.detail.requestConfig && event.detail.requestConfig.verb === 'post' && event.detail.target && event.detail.target.id === 'main') {
    document.getElementById('main').focus({ preventScroll: true });
    document.getElementById('announce').textContent = 'Done.';
  }
});
// A ticked job keeps the keyboard where it was.
document.addEventListener('htmx:afterSwap', function (event) {
  var job = event.detail.target && event.detail.target.id && document.getElementById(event.detail.target.id);
  var tick = job && job.classList.contains('job') && job.querySelector('.tick');
  if (tick) { tick.focus(); }
});

// A press counts for the button it began on, though an answer that came in meanwhile has moved the page under the pointer. The
// browser then gives the click to what holds both places, and it would be lost.
(function () {
  var pressed = null;
  var at = [0, 0];
  document.addEventListener('pointerdown', function (event) {
    pressed = event.isPrimary && event.button === 0 ? event.target.closest('button') : null;
    at = [event.clientX, event.clientY];
  }, true);
  document.addEventListener('click', function (event) {
    var button = pressed;
    pressed = null;
    if (!button || !event.isTrusted || !button.isConnected || event.target.closest('button') || !event.target.contains(button)) { return; }
    if (Math.abs(event.clientX - at[0]) > 4 || Math.abs(event.clientY - at[1]) > 4) { return; }
    event.stopPropagation();
    button.click();
  }, true);
})();
