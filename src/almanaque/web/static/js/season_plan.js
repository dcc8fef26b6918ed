// Takes a proposal of a season's plan off the map and drops it on other squares or on another bed; the plan is made again around it.
// A press shows what is said of it in the list; keys do the same, and the list moves it without a hand.
(function () {
  var HOLD_PX = 5, LONG_MS = 350;
  var drag = null, timer = null;

  function tell(text) {
    var place = document.getElementById('moving-words');
    if (place) { place.textContent = text; }
  }

  function square(bed, event) {
    var matrix = bed.getScreenCTM().inverse(), pitch = bed.dataset.pitch.split(' ').map(Number);
    var x = event.clientX * matrix.a + event.clientY * matrix.c + matrix.e;
    var y = event.clientX * matrix.b + event.clientY * matrix.d + matrix.f;
    return [Math.floor(x / pitch[0]), Math.floor(y / pitch[1])];
  }

  function bedUnder(event) {
    var found = document.elementsFromPoint(event.clientX, event.clientY).find(function (one) { return one.closest('[data-bed]'); });
    return found ? found.closest('[data-bed]') : null;
  }

  function show(piece) {
    var line = document.querySelector('[data-line="' + CSS.escape(piece.dataset.wish) + '"]');
    document.querySelectorAll('.is-shown').forEach(function (one) { one.classList.remove('is-shown'); });
    document.querySelectorAll('.proposed').forEach(function (one) {
      one.classList.toggle('is-shown', one.dataset.wish === piece.dataset.wish);
    });
    if (!line) { return; }
    line.classList.add('is-shown');
    line.scrollIntoView({ block: 'nearest' });
    line.focus({ preventScroll: true });
  }

  function lift() {
    if (!drag || drag.ghost) { return; }
    drag.ghost = document.createElementNS('http://www.w3.org/2000/svg', 'g');
    drag.ghost.setAttribute('class', 'is-lifted');
    drag.ghost.setAttribute('aria-hidden', 'true');
    drag.ghost.setAttribute('transform', drag.bed.getAttribute('transform'));
    drag.moved = drag.ghost.appendChild(document.createElementNS('http://www.w3.org/2000/svg', 'g'));
    [drag.piece, drag.piece.nextElementSibling].forEach(function (part) {
      var copy = part.cloneNode(true);
      ['tabindex', 'role', 'aria-label', 'data-wish', 'class'].forEach(function (name) { copy.removeAttribute(name); });
      drag.moved.appendChild(copy);
      part.classList.add('is-away');
    });
    drag.bed.ownerSVGElement.appendChild(drag.ghost);  // above every bed
    tell('Drop it on other squares or on another bed. Escape leaves it where it was.');
  }

  function leave() {
    clearTimeout(timer);
    if (!drag) { return; }
    if (drag.ghost) { drag.ghost.remove(); }
    document.querySelectorAll('.is-away').forEach(function (one) { one.classList.remove('is-away'); });
    document.querySelectorAll('.is-target').forEach(function (one) { one.classList.remove('is-target'); });
    drag = null;
  }

  document.addEventListener('pointerdown', function (event) {
    var piece = event.target.closest && event.target.closest('.proposed');
    var form = document.getElementById('move-proposal');
    if (!piece || event.button || !form) { return; }
    if (form.classList.contains('htmx-request')) { tell('Wait a moment: the one before is being put there.'); return; }
    var bed = piece.closest('[data-bed]');
    drag = { piece: piece, bed: bed, from: square(bed, event), x: event.clientX, y: event.clientY, touch: event.pointerType === 'touch', id: event.pointerId };
    if (drag.touch) { timer = setTimeout(lift, LONG_MS); } else { event.preventDefault(); piece.focus({ preventScroll: true }); }
  });

  document.addEventListener('pointermove', function (event) {
    if (!drag || event.pointerId !== drag.id) { return; }
    var far = Math.hypot(event.clientX - drag.x, event.clientY - drag.y);
    if (!drag.ghost && far > HOLD_PX) {
      if (drag.touch) { leave(); return; }
      lift();
    }
    if (!drag || !drag.ghost) { return; }
    var matrix = drag.bed.getScreenCTM().inverse(), dx = event.clientX - drag.x, dy = event.clientY - drag.y;
    drag.moved.setAttribute('transform', 'translate(' + (dx * matrix.a + dy * matrix.c) + ' ' + (dx * matrix.b + dy * matrix.d) + ')');
    var under = bedUnder(event);
    document.querySelectorAll('.is-target').forEach(function (one) { if (one !== under) { one.classList.remove('is-target'); } });
    if (under && !under.classList.contains('is-target')) { under.classList.add('is-target'); tell('Into ' + under.dataset.name + '.'); }
  });

  document.addEventListener('touchmove', function (event) {
    if (drag && drag.ghost) { event.preventDefault(); }
  }, { passive: false });

  document.addEventListener('pointerup', function (event) {
    if (!drag || event.pointerId !== drag.id) { return; }
    var piece = drag.piece, ghost = drag.ghost, from = drag.from, bed = ghost ? bedUnder(event) : null;
    leave();
    if (!ghost) { show(piece); return; }
    if (!bed) { tell('It stays where it was: there is no bed.'); return; }
    var form = document.getElementById('move-proposal'), to = square(bed, event);
    form.elements.wish.value = piece.dataset.wish;
    form.elements.bed.value = bed.dataset.bed;
    form.elements.columns.value = to[0] - from[0];
    form.elements.rows.value = to[1] - from[1];
    tell('It is put into ' + bed.dataset.name + ' …');
    form.requestSubmit();
  });

  document.addEventListener('pointercancel', leave);
  document.addEventListener('keydown', function (event) {
    if (event.key === 'Escape' && drag) { leave(); tell('It stays where it was.'); return; }
    var piece = event.target.closest && event.target.closest('.proposed');
    if (piece && (event.key === 'Enter' || event.key === ' ')) { event.preventDefault(); show(piece); }
  });
})();
