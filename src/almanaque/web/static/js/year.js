// Moves a step of a planting along the year: by dragging its handle or with the arrow keys. What each day would make of the
// planting is asked once, when the handle is taken; the verdict is told before it is let go.
(function () {
  var DAY = 86400000;
  var taken = null, moves = [], drawnAnew = false;

  function chart(handle) { return handle.closest('svg'); }
  function dayOf(text) { return Date.parse(text + 'T00:00:00Z'); }
  function textOf(time) { return new Date(time).toISOString().slice(0, 10); }

  function xOf(svg, time) {
    return Number(svg.dataset.left) + (time - dayOf(svg.dataset.starts)) / DAY * Number(svg.dataset.dayPx);
  }

  function tell(words, verdict) {
    var place = document.getElementById('moving');
    place.hidden = !words;
    place.className = 'year-moving is-' + (verdict || '').replace('with ', '');
    place.textContent = words;
  }

  function take(handle) {
    var bar = handle.closest('[data-planting]');
    taken = { handle: handle, bar: bar, id: bar.dataset.planting, step: handle.dataset.step, from: handle.dataset.day, day: handle.dataset.day, days: null };
    var mine = taken;
    bar.classList.add('is-moving');
    tell('Looking at the years on file …', '');
    fetch('/garden/plantings/' + mine.id + '/days?step=' + mine.step, { headers: { Accept: 'application/json' } })
      .then(function (answer) { return answer.ok ? answer.json() : []; })
      .then(function (list) {
        mine.days = {};
        list.forEach(function (entry) { mine.days[entry.day] = entry; });
        if (taken === mine) { show(); }
      })
      .catch(function () { if (taken === mine) { leave(); tell('The server cannot be reached. Nothing was moved.', 'misses'); } });
  }

  function show() {
    var svg = chart(taken.handle);
    var time = dayOf(taken.day);
    taken.handle.setAttribute('cx', xOf(svg, time).toFixed(1));
    if (!taken.days) { return; }
    var found = taken.days[taken.day];
    taken.handle.setAttribute('aria-valuetext', found ? found.words : taken.day);
    if (found) {
      tell(found.words, found.verdict);
      var pick = taken.bar.querySelector('.pick');
      var first = xOf(svg, dayOf(found.first));
      pick.setAttribute('x', first.toFixed(1));
      pick.setAttribute('width', Math.max(3, xOf(svg, dayOf(found.last)) - first).toFixed(1));
    } else {
      tell(taken.day + ': that day cannot be chosen', 'misses');
    }
  }

  function leave() {
    if (!taken) { return; }
    var back = taken;
    taken = null;
    back.bar.classList.remove('is-moving');
    back.handle.setAttribute('cx', xOf(chart(back.handle), dayOf(back.from)).toFixed(1));
    tell('', '');
  }

  function put() {
    if (!taken) { return; }
    var done = taken;
    if (done.day === done.from || (done.days && !done.days[done.day])) { leave(); return; }
    taken = null;
    done.bar.classList.remove('is-moving');
    moves.push(done);
    send();
  }

  // One move at a time, in order: the next goes when the answer to the one before is there.
  function send() {
    var form = document.getElementById('move-step');
    if (!moves.length || !form || form.getAttribute('aria-busy') === 'true') { return; }
    var done = moves.shift();
    var address = '/garden/plantings/' + done.id + '/steps' + window.location.search;
    form.elements.namedItem('step').value = done.step;
    form.elements.namedItem('day').value = done.day;
    form.setAttribute('action', address);
    form.setAttribute('hx-post', address);
    window.htmx.process(form);
    form.requestSubmit();
  }

  document.addEventListener('htmx:afterRequest', function () { drawnAnew = false; setTimeout(send); });
  // The year is drawn anew: what is in the hand stays in it.
  document.addEventListener('htmx:beforeSwap', function () { drawnAnew = true; });
  document.addEventListener('htmx:afterSwap', function () {
    drawnAnew = false;
    if (!taken || taken.handle.isConnected) { return; }
    var handle = document.querySelector('[data-planting="' + taken.id + '"] .drag[data-step="' + taken.step + '"]');
    if (!handle) { taken = null; tell('', ''); return; }
    taken.handle = handle;
    taken.bar = handle.closest('[data-planting]');
    taken.bar.classList.add('is-moving');
    handle.focus({ preventScroll: true });
    show();
  });

  document.addEventListener('pointerdown', function (event) {
    var handle = event.target.closest ? event.target.closest('.drag') : null;
    if (!handle) { return; }
    event.preventDefault();
    handle.focus();
    take(handle);
    try { handle.setPointerCapture(event.pointerId); } catch (ignored) { return; }
  });
  document.addEventListener('pointermove', function (event) {
    if (!taken || event.buttons === 0) { return; }
    var svg = chart(taken.handle);
    var box = svg.getBoundingClientRect();
    var x = (event.clientX - box.left) * svg.viewBox.baseVal.width / box.width;
    var time = dayOf(svg.dataset.starts) + Math.round((x - Number(svg.dataset.left)) / Number(svg.dataset.dayPx)) * DAY;
    taken.day = textOf(time);
    show();
  });
  document.addEventListener('pointerup', function () { if (taken) { put(); } });
  document.addEventListener('pointercancel', leave);
  document.addEventListener('keydown', function (event) {
    var handle = event.target.closest ? event.target.closest('.drag') : null;
    if (!handle) { return; }
    var step = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (step) {
      event.preventDefault();
      if (!taken || taken.handle !== handle) { take(handle); }
      taken.day = textOf(dayOf(taken.day) + step * (event.shiftKey ? 7 : 1) * DAY);
      show();
    } else if (event.key === 'Enter' && taken) {
      event.preventDefault();
      put();
    } else if (event.key === 'Escape' && taken) {
      leave();
    }
  });
  document.addEventListener('focusout', function (event) {
    if (taken && !drawnAnew && event.target === taken.handle && !event.target.matches(':active')) { leave(); }
  });
})();
