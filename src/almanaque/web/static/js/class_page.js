// A tablet's class page: what is sent is kept on the tablet first, for this page and team, and sent again until it is in; the board is
// asked for every few seconds, and a ballot has no more dots than it has.
(function () {
  var EVERY_MS = 3000, AGAIN_MS = 4000;
  var sending = false;

  function page() { return document.querySelector('.class-page'); }
  function shelf() { return 'class page ' + page().dataset.shelf; }
  function waiting(on) { try { return JSON.parse(localStorage.getItem(on) || '[]'); } catch (error) { return []; } }
  function keep(on, all) { try { localStorage.setItem(on, JSON.stringify(all)); return true; } catch (error) { return false; } }
  function say(text) {
    var line = document.getElementById('class-kept');
    if (!line) {
      line = document.createElement('p');
      line.id = 'class-kept';
      line.className = 'message';
      line.setAttribute('role', 'status');
      page().insertBefore(line, page().children[1]);
    }
    line.hidden = !text;
    line.textContent = text;
  }
  function show(html, address) {
    var next = new DOMParser().parseFromString(html, 'text/html').querySelector('.class-page');
    if (!next) { window.location = '/class?over=1'; return; }
    page().replaceWith(next);
    if (address) { history.replaceState(null, '', address); }
    var wrong = next.querySelector('[aria-invalid=true], .error');
    if (wrong && wrong.focus) { wrong.focus(); }
    dots();
  }

  // One after another, in the order in which they were written down; the same number each time, so that it is written once. After the
  // lesson what waits stays, and is sent when an educator lets it last longer.
  function send() {
    var on = shelf(), all = waiting(on), one = all[0];
    if (sending || !one) { return; }
    sending = true;
    var fields = one.fields.concat([['form_token', page().dataset.token]]);
    fetch(one.action, { method: 'POST', body: new URLSearchParams(fields), credentials: 'same-origin' })
      .then(function (answer) {
        if (answer.status >= 500 || answer.status === 429) { throw new Error('busy'); }
        if (answer.status === 403) { window.location = '/class?over=1'; return; }
        return answer.text().then(function (html) {
          keep(on, waiting(on).slice(1));
          sending = false;
          say('');
          show(html, answer.redirected ? answer.url : '');
          if (answer.status !== 422) { send(); } // else the sentence stays until it is read; the rest goes with what is sent next
        });
      })
      .catch(function () {
        sending = false;
        say('Not sent yet. It is kept on this tablet and sent as soon as it can.');
        setTimeout(send, AGAIN_MS);
      });
  }
  document.addEventListener('submit', function (event) {
    var form = event.target;
    if (!form.matches('.class-count, .class-lay, #class-ballot')) { return; }
    var fields = [];
    new FormData(form).forEach(function (value, name) { if (name !== 'form_token') { fields.push([name, value]); } });
    if (event.submitter && event.submitter.name) { fields.push([event.submitter.name, event.submitter.value]); }
    if (!keep(shelf(), waiting(shelf()).concat([{ action: form.getAttribute('action'), fields: fields }]))) { return; }
    event.preventDefault();
    if (event.submitter) { event.submitter.disabled = true; }
    send();
  });

  // More or less by one, for small hands.
  document.addEventListener('click', function (event) {
    var step = event.target.closest('.class-step');
    if (!step) { return; }
    var input = step.parentNode.querySelector('input'), value = Number(input.value.replace(',', '.')) || 0;
    input.value = String(Math.max(0, value + Number(step.dataset.step)));
  });

  // A third dot is not to be had: the other crops wait until one is taken off.
  function dots() {
    var form = document.querySelector('[data-dots]');
    if (!form) { return; }
    var boxes = Array.from(form.querySelectorAll('[name=dots]')), given = boxes.filter(function (box) { return box.checked; }).length;
    boxes.forEach(function (box) { box.disabled = !box.checked && given >= Number(form.dataset.dots); });
  }
  document.addEventListener('change', function (event) { if (event.target.name === 'dots') { dots(); } });

  // A card is dragged to a heap; what is dropped there is what choosing the card and pressing the heap does.
  var drag = null;
  function heapUnder(event) {
    return Array.from(document.querySelectorAll('.class-heap, .class-table')).find(function (place) {
      var box = place.getBoundingClientRect();
      return event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top && event.clientY <= box.bottom;
    });
  }
  document.addEventListener('pointerdown', function (event) {
    var card = event.target.closest('.class-card');
    if (!card || event.button) { return; }
    drag = { card: card, x: event.clientX, y: event.clientY, moved: false };
    card.setPointerCapture(event.pointerId);
  });
  document.addEventListener('pointermove', function (event) {
    if (!drag) { return; }
    var dx = event.clientX - drag.x, dy = event.clientY - drag.y;
    if (!drag.moved && Math.hypot(dx, dy) < 8) { return; }
    drag.moved = true;
    drag.card.classList.add('is-held');
    drag.card.getAnimations().forEach(function (one) { one.cancel(); });
    drag.card.animate({ transform: ['none', 'translate(' + dx + 'px,' + dy + 'px)'] }, { duration: 1, fill: 'forwards' });
    var over = heapUnder(event);
    document.querySelectorAll('.class-heap').forEach(function (heap) { heap.classList.toggle('is-over', heap === over); });
  });
  function drop(event) {
    if (!drag) { return; }
    var held = drag, place = heapUnder(event);
    drag = null;
    held.card.classList.remove('is-held');
    held.card.getAnimations().forEach(function (one) { one.cancel(); });
    if (!held.moved || event.type === 'pointercancel' || !place || place.contains(held.card)) { return; }
    held.card.querySelector('input').checked = true;
    place.querySelector('button[name=heap]').click();
  }
  document.addEventListener('pointerup', drop);
  document.addEventListener('pointercancel', drop);

  function live() {
    var board = document.getElementById('class-live');
    if (board && !document.hidden) {
      fetch(board.dataset.live, { credentials: 'same-origin' }).then(function (answer) {
        if (!answer.ok) { return; }
        return answer.text().then(function (html) {
          var next = new DOMParser().parseFromString(html, 'text/html').getElementById('class-live');
          var shown = document.getElementById('class-live');
          if (next && shown && next.innerHTML !== shown.innerHTML) { shown.replaceWith(next); }
          if (!next) { window.location = '/class?over=1'; }
        });
      }).catch(function () { /* asked again soon */ });
    }
    setTimeout(live, EVERY_MS);
  }

  document.addEventListener('DOMContentLoaded', function () { dots(); if (page()) { send(); } setTimeout(live, EVERY_MS); });
}());
