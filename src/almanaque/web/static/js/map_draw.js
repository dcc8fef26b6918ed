// Drawing the garden: things are drawn, chosen, moved, turned and reshaped by pointer, finger and keys, with their sizes read out at the
// hand. The server checks and writes; a step that it refuses is drawn as it was.
(function () {
  var S = window.MapShapes, NS = 'http://www.w3.org/2000/svg';
  var NEAR_MM = 1829, HOLD_PX = 4;
  var tool = 'choose', drag = null, pointers = {}, pinch = null, sent = null;
  var steps = window.MapSteps(submit, restore);

  function edit() { return document.getElementById('map-edit'); }
  function svg() { return edit() && edit().querySelector('.map-picture'); }
  function data(name) { return Number(edit().dataset[name]); }
  function scale() { return data('scale'); }
  function things() { return Array.from(document.querySelectorAll('#map-edit .thing')); }
  function thing(id) { return things().find(function (one) { return one.dataset.id === id; }); }
  function chosen() { return edit() && thing(edit().dataset.chosen); }
  function units() { return edit().dataset.units; }

  function read(one) {
    var d = one.dataset;
    return {
      x: Number(d.x), y: Number(d.y), length: Number(d.length), width: Number(d.width), turn: Number(d.turn),
      corners: d.corners ? d.corners.split(';').map(function (pair) { return pair.split(',').map(Number); }) : []
    };
  }
  // Where a thing lies by the hand, which may be ahead of the server's answers.
  function lies(one) { return steps.ahead(one.dataset.id) || read(one); }
  function round(place) { return place.corners.length === 24; }
  function seen(place) { return [place.x, place.y, place.length, place.width, place.turn].map(rounded).join(','); }
  function rounded(value) { return Math.round(value * 10000) / 10000; }
  function cornersText(corners) { return corners.map(function (c) { return rounded(c[0]) + ',' + rounded(c[1]); }).join(';'); }

  function at(event) {
    var matrix = svg().getScreenCTM().inverse();
    return [(event.clientX * matrix.a + matrix.e) / scale(), (event.clientY * matrix.d + matrix.f) / scale()];
  }
  function snapped(value, event) {
    var box = document.getElementById('snap');
    var step = box && box.checked && !(event && event.altKey) ? data('snap') : data('nudge');
    return Math.round(value / step) * step;
  }

  // --- what is drawn over the map: handles, sizes, clearances, the offered place -------------------------------------------------
  function make(name, attributes, parent, text) {
    var element = document.createElementNS(NS, name);
    Object.keys(attributes).forEach(function (key) { element.setAttribute(key, attributes[key]); });
    if (text !== undefined) { element.textContent = text; }
    parent.appendChild(element);
    return element;
  }
  function overlay(name) {
    var old = svg().querySelector('.' + name);
    if (old) { old.remove(); }
    return make('g', { class: name }, svg());
  }
  function px(point) { return [point[0] * scale(), point[1] * scale()]; }

  function show(one, place) {
    var s = scale(), body = one.querySelector('.body, .bed-body');
    var turned = place.turn ? ' rotate(' + place.turn + ' ' + place.length / 2 * s + ' ' + place.width / 2 * s + ')' : '';
    one.setAttribute('transform', 'translate(' + place.x * s + ' ' + place.y * s + ')' + turned);
    if (body.tagName === 'ellipse') {
      body.setAttribute('cx', place.length / 2 * s); body.setAttribute('cy', place.width / 2 * s);
      body.setAttribute('rx', place.length / 2 * s); body.setAttribute('ry', place.width / 2 * s);
    } else {
      body.setAttribute('d', 'M' + S.own(place).map(function (c) { return c[0] * s + ' ' + c[1] * s; }).join('L') + 'Z');
    }
    var now = read(one);
    one.classList.toggle('is-reshaped', place.length !== now.length || place.width !== now.width || cornersText(place.corners) !== cornersText(now.corners));
  }

  function label(group, point, text, css) {
    var wide = text.length * 6.6 + 10, where = px(point);
    var sign = make('g', { class: 'map-size ' + (css || ''), transform: 'translate(' + where[0] + ' ' + where[1] + ')' }, group);
    make('rect', { x: -wide / 2, y: -9, width: wide, height: 18, rx: 3 }, sign);
    make('text', { y: 4.5 }, sign, text);
  }

  function sizes(place) {
    var group = overlay('map-sizes'), corners = S.polygon(place), middle = S.toSite(place, [place.length / 2, place.width / 2]);
    if (round(place)) { label(group, S.toSite(place, [place.length / 2, -9 / scale()]), S.words(place.length, units()) + ' across'); return group; }
    corners.forEach(function (a, n) {
      var b = corners[(n + 1) % corners.length], long = Math.hypot(b[0] - a[0], b[1] - a[1]);
      if (long * scale() < 6) { return; }
      var between = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], out = [b[1] - a[1], a[0] - b[0]];
      var away = (out[0] * (between[0] - middle[0]) + out[1] * (between[1] - middle[1])) < 0 ? -1 : 1;
      if (corners.length > 4) { away = 1; }
      label(group, [between[0] + away * out[0] / long * 16 / scale(), between[1] + away * out[1] / long * 16 / scale()], S.words(long, units()));
    });
    return group;
  }

  function neighbours(place, self) {
    var mine = S.polygon(place), found = [];
    things().forEach(function (other) {
      if (other === self || other.dataset.kind === 'tunnel' || other.dataset.kind === 'cover' || other.dataset.kind === 'frame') { return; }
      var gap = S.gap(mine, S.polygon(lies(other)));
      if (gap.mm < NEAR_MM) { found.push({ other: other, gap: gap }); }
    });
    return found.sort(function (a, b) { return a.gap.mm - b.gap.mm; });
  }

  function clearances(place, self) {
    if (edit().dataset.flat) { return; }
    var group = overlay('map-gaps'), close = neighbours(place, self), list = document.getElementById('near');
    var nearest = close.find(function (one) { return one.gap.mm > 1; });
    if (nearest) {
      var from = px(nearest.gap.from), to = px(nearest.gap.to), passes = nearest.gap.mm >= data('pass') - 1;
      make('path', { d: 'M' + from.join(' ') + 'L' + to.join(' '), class: 'map-gap' + (passes ? ' is-wide' : '') }, group);
      label(group, [(nearest.gap.from[0] + nearest.gap.to[0]) / 2, (nearest.gap.from[1] + nearest.gap.to[1]) / 2 + 26 / scale()], 'path ' + S.words(nearest.gap.mm, units()), passes ? 'is-wide' : 'is-narrow');
    }
    if (!list) { return; }
    var rows = close.slice(0, 4).map(function (one) {
      var mm = one.gap.mm;
      var says = mm <= 1 ? 'touches or overlaps' : mm >= data('wheelchair') - 1 ? 'a wheelchair turns' : mm >= data('pass') - 1 ? 'a wheelchair passes' : 'on foot only';
      return [one.other.dataset.name, S.words(mm, units()), says];
    });
    var taps = things().filter(function (one) { return Number(one.dataset.hose) > 0; }).map(function (tap) {
      var spot = lies(tap), far = S.farthest([spot.x + spot.length / 2, spot.y + spot.width / 2], S.polygon(place));
      return { name: tap.dataset.name, far: far, lacking: far - Number(tap.dataset.hose) };
    }).sort(function (a, b) { return a.lacking - b.lacking; });
    if (taps.length && self && self.dataset.what === 'bed') {
      rows.push([taps[0].name, S.words(Math.ceil(taps[0].far / data('snap')) * data('snap'), units()), taps[0].lacking > 1 ? 'the hose is ' + S.words(taps[0].lacking, units()) + ' short' : 'the hose reaches']);
    }
    list.replaceChildren();
    rows.forEach(function (row) {
      var line = document.createElement('p');
      row.forEach(function (text, n) { var part = document.createElement(n === 1 ? 'b' : 'span'); part.textContent = text; line.appendChild(part); });
      list.appendChild(line);
    });
  }

  function numbers(place) {
    var cut = S.notch(place), values = { length: S.words(place.length, units()), width: S.words(place.width, units()), x: S.words(place.x, units()), y: S.words(place.y, units()), turn: String(Math.round(place.turn * 100) / 100) };
    values.size = values.length + ' x ' + values.width;
    values.at = values.x + ' x ' + values.y;
    if (cut) { values.notch_length = S.words(cut[0], units()); values.notch_width = S.words(cut[1], units()); }
    document.querySelectorAll('[data-number]').forEach(function (field) {
      var value = values[field.dataset.number];
      if (value !== undefined && field.value !== value && !(place.x < 0 || place.y < 0)) { field.value = value; field.classList.add('is-moving'); }
    });
  }

  function hand(text, event) {
    var note = document.getElementById('map-hand');
    note.hidden = !text;
    note.textContent = text;
    if (text && event) { note.classList.toggle('is-left', event.clientX > window.innerWidth / 2); }
  }

  // --- handles ------------------------------------------------------------------------------------------------------------------
  // A handle that has the keyboard keeps it while the thing is drawn anew, or gives it to the one that is asked for.
  function handles(one, shown, wanted) {
    var old = svg().querySelector('.map-handles'), held = old && old.contains(document.activeElement) && document.activeElement.dataset;
    var focus = wanted || (held ? { handle: held.handle, n: held.n } : null);
    if (old) { old.remove(); }
    if (!one) { return; }
    var place = shown || lies(one), s = scale();
    var group = make('g', { class: 'map-handles' }, svg());
    function handle(kind, n, point, name) {
      var where = px(S.toSite(place, point));
      var spot = make('g', { class: 'map-handle is-' + kind, transform: 'translate(' + where[0] + ' ' + where[1] + ')', tabindex: 0, role: 'button', 'aria-label': name, 'data-handle': kind, 'data-n': n }, group);
      make('circle', { r: 15, class: 'reach' }, spot);
      if (kind === 'corner') { make('rect', { x: -5, y: -5, width: 10, height: 10 }, spot); } else { make('circle', { r: kind === 'turn' ? 6 : 4.5 }, spot); }
    }
    var stalk = [px(S.toSite(place, [place.length / 2, 0])), px(S.toSite(place, [place.length / 2, -30 / s]))];
    if (!edit().dataset.flat) { make('path', { d: 'M' + stalk[0].join(' ') + 'L' + stalk[1].join(' '), class: 'stalk' }, group); }
    if (!edit().dataset.flat) { handle('turn', 0, [place.length / 2, -30 / s], 'Turn: arrows turn it by 5 degrees'); }
    if (!round(place) && one.dataset.round !== 'yes') {
      S.own(place).forEach(function (corner, n) { handle('corner', n, corner, 'Corner ' + (n + 1) + ': arrows move it, ' + (place.corners.length ? '' : 'I pulls it in for an L, ') + 'Delete takes it out'); });
    }
    if (!place.corners.length || round(place)) {
      [[place.length, place.width / 2, 'Right side'], [place.length / 2, place.width, 'Lower side'], [0, place.width / 2, 'Left side'], [place.length / 2, 0, 'Upper side']].forEach(function (side, n) {
        handle('side', n, side, side[2] + ': arrows move it');
      });
    }
    var again = focus && group.querySelector('[data-handle="' + focus.handle + '"][data-n="' + focus.n + '"]');
    if (again) { again.focus({ preventScroll: true }); }
  }

  // --- reshaping ------------------------------------------------------------------------------------------------------------------
  // A side of a box moved by so much outward; the opposite side stays where it is on the ground.
  function sideBy(begin, n, by) {
    var place = Object.assign({}, begin, { corners: begin.corners });
    var least = data('nudge');
    var name = n % 2 ? 'width' : 'length', now = Math.max(least, begin[name] + by);
    if (round(begin)) { place.length = place.width = now; } else { place[name] = now; }
    var keep = [[0, 0.5], [0.5, 0], [1, 0.5], [0.5, 1]][n];
    var was = S.toSite(begin, [keep[0] * begin.length, keep[1] * begin.width]), is = S.toSite(place, [keep[0] * place.length, keep[1] * place.width]);
    place.x += was[0] - is[0];
    place.y += was[1] - is[1];
    place.corners = begin.corners.map(function (c) { return [c[0] * place.length / begin.length, c[1] * place.width / begin.width]; });
    return place;
  }
  // A corner of a box dragged to a point: outward it makes it larger; inward, past the hold, it is pulled in and leaves an L.
  function boxCorner(begin, n, point, event) {
    var outward = [n === 1 || n === 2 ? 1 : -1, n > 1 ? 1 : -1];
    var corner = [n === 1 || n === 2 ? begin.length : 0, n > 1 ? begin.width : 0];
    var by = [(point[0] - corner[0]) * outward[0], (point[1] - corner[1]) * outward[1]];
    var least = data('nudge');
    if (by[0] < -least && by[1] < -least && !event.shiftKey && -by[0] < begin.length && -by[1] < begin.width && !edit().dataset.flat) {
      return S.boxed(begin, S.pulledIn(begin, n, -by[0], -by[1]));
    }
    var wider = sideBy(begin, n === 1 || n === 2 ? 0 : 2, by[0]);
    return sideBy(wider, n > 1 ? 1 : 3, by[1]);
  }
  function snappedIn(place, point, event) { return [snapped(point[0], event), snapped(point[1], event)]; }

  function pull(event) {
    var point = at(event), begin = drag.begin, place;
    if (drag.kind === 'move') {
      place = Object.assign({}, begin, { x: snapped(begin.x + point[0] - drag.from[0], event), y: snapped(begin.y + point[1] - drag.from[1], event) });
    } else if (drag.kind === 'turn') {
      var middle = S.toSite(begin, [begin.length / 2, begin.width / 2]);
      var turn = Math.atan2(point[0] - middle[0], middle[1] - point[1]) * 180 / Math.PI, step = event.altKey ? 1 : 5;
      place = Object.assign({}, begin, { turn: (Math.round(turn / step) * step + 360) % 360 });
    } else if (drag.kind === 'side') {
      var own = S.toOwn(begin, point), along = [own[0] - begin.length, own[1] - begin.width, -own[0], -own[1]][drag.n];
      var size = drag.n % 2 ? begin.width : begin.length;
      place = sideBy(begin, drag.n, snapped(size + along, event) - size);
    } else {
      var inner = snappedIn(begin, S.toOwn(begin, point), event);
      place = begin.corners.length ? S.boxed(begin, S.cornerTo(begin.corners, drag.n, inner)) : boxCorner(begin, drag.n, inner, event);
    }
    drag.place = place;
    follow(drag.thing, place);
  }
  function follow(one, place) {
    show(one, place);
    sizes(place);
    clearances(place, one);
    handles(one, place);
    numbers(place);
  }

  // --- sending ----------------------------------------------------------------------------------------------------------------------
  function fill(form, values) {
    Object.keys(values).forEach(function (name) { var field = form.elements.namedItem(name); if (field) { field.value = values[name]; } });
    var version = form.elements.namedItem('version');
    if (version) { version.value = edit().dataset.version; }
  }
  function same(a, b) { return seen(a) === seen(b) && cornersText(a.corners) === cornersText(b.corners); }
  function stepOf(one, place, base) { return { form: 'place', id: one.dataset.id, place: place, base: base, values: { what: one.dataset.what } }; }
  function send(one, place, base) {
    steps.flush();
    if (same(place, base)) { restore(); return; }
    steps.add(stepOf(one, place, base));
  }
  function submit(step) {
    var place = step.place, reshaped = step.base && cornersText(place.corners) !== cornersText(step.base.corners);
    var form = document.getElementById(step.form);
    if (!form || step.base && same(place, step.base)) { return null; }
    fill(form, Object.assign({
      id: step.id, x: rounded(place.x), y: rounded(place.y), length: rounded(place.length), width: rounded(place.width), turn: rounded(place.turn),
      corners: cornersText(place.corners), reshaped: reshaped ? 'yes' : '', seen: step.base ? seen(step.base) : ''
    }, step.values));
    sent = edit().dataset.chosen;
    form.requestSubmit();
    return form;
  }
  function setDown(place) {
    var button = document.querySelector('[data-tool="' + tool + '"]'), corners = tool === 'round' ? circle(place.length) : [];
    var drawn = Object.assign({}, place, { turn: 0, corners: corners }), values = { what: button.dataset.what, kind: button.dataset.kind };
    choose('choose');
    steps.flush();
    steps.add({ form: 'draw', id: crypto.randomUUID(), place: drawn, base: null, values: values });
  }
  function circle(across) {
    var half = across / 2, found = [];
    for (var n = 0; n < 24; n += 1) { found.push([half + half * Math.sin(2 * Math.PI * n / 24), half - half * Math.cos(2 * Math.PI * n / 24)]); }
    return found;
  }
  function restore() {
    things().forEach(function (one) { show(one, lies(one)); });
    ['map-sizes', 'map-gaps', 'map-new'].forEach(function (name) { var old = svg().querySelector('.' + name); if (old) { old.remove(); } });
    var one = chosen();
    handles(one);
    if (one) { sizes(lies(one)); clearances(lies(one), one); }
    if (one && steps.ahead(one.dataset.id)) { numbers(lies(one)); }
    hand('');
  }

  // --- tools --------------------------------------------------------------------------------------------------------------------
  function choose(name) {
    tool = name;
    document.querySelectorAll('[data-tool]').forEach(function (button) { button.setAttribute('aria-pressed', String(button.dataset.tool === name)); });
    svg().classList.toggle('is-drawing', name !== 'choose');
    ghost();
  }
  function ghostPlace() {
    var parts = edit().dataset.ghost ? edit().dataset.ghost.split(',').map(Number) : null;
    return parts && (edit().dataset.ghostTools || 'bed').split(' ').indexOf(tool) >= 0 ? { x: parts[0], y: parts[1], length: parts[2], width: parts[3], turn: 0, corners: [] } : null;
  }
  function ghost() {
    var place = ghostPlace(), group = overlay('map-ghost');
    if (!place) { group.remove(); return; }
    var corner = px([place.x, place.y]);
    make('rect', { x: corner[0], y: corner[1], width: place.length * scale(), height: place.width * scale() }, group);
    var middle = px([place.x + place.length / 2, place.y + place.width / 2]);
    make('text', { x: middle[0], y: middle[1] - 3 }, group, 'fits here');
    make('text', { x: middle[0], y: middle[1] + 13 }, group, 'press Enter');
  }

  function pick(one) {
    if (edit().dataset.chosen === one.dataset.id) { return; }
    htmx.ajax('GET', edit().dataset.page + '?thing=' + one.dataset.id, { target: '#map-edit', select: '#map-edit', swap: 'outerHTML show:none' });
    history.replaceState(history.state, '', edit().dataset.page + '?thing=' + one.dataset.id);
    edit().dataset.chosen = one.dataset.id;
    handles(one);
    sizes(lies(one));
  }

  // --- pointer and finger ----------------------------------------------------------------------------------------------------------
  function begin(event) {
    if (!svg() || !svg().contains(event.target) || event.button) { return; }
    pointers[event.pointerId] = [event.clientX, event.clientY];
    if (Object.keys(pointers).length === 2) { drag = null; restore(); startPinch(); return; }
    if (document.body.dataset.tracing) { return; }
    var point = at(event);
    if (tool !== 'choose') {
      event.preventDefault();
      drag = { kind: 'new', from: [snapped(point[0], event), snapped(point[1], event)], at: [event.clientX, event.clientY], moved: false };
      return;
    }
    var handle = event.target.closest('.map-handle') && nearestHandle(event), one = event.target.closest('.thing');
    if (handle && within(chosen(), event, handle)) { handle = null; one = chosen(); }
    if (handle && chosen()) {
      event.preventDefault();
      drag = { kind: handle.dataset.handle, n: Number(handle.dataset.n), thing: chosen(), begin: lies(chosen()), from: point, at: [event.clientX, event.clientY], moved: false };
    } else if (one) {
      // A finger chooses by a tap and moves only what is chosen, so that the page scrolls else.
      if (event.pointerType === 'touch' && one !== chosen()) { drag = { kind: 'tap', thing: one, at: [event.clientX, event.clientY] }; return; }
      event.preventDefault();
      one.focus({ preventScroll: true });
      drag = { kind: 'move', thing: one, begin: lies(one), from: point, at: [event.clientX, event.clientY], moved: false };
    }
  }
  // Where the reaches of several handles lie over each other, the one whose middle is nearest.
  function nearestHandle(event) {
    function far(handle) { var box = handle.getBoundingClientRect(); return Math.hypot(event.clientX - box.left - box.width / 2, event.clientY - box.top - box.height / 2); }
    return Array.from(svg().querySelectorAll('.map-handle')).reduce(function (a, b) { return far(b) < far(a) ? b : a; });
  }
  // On a small thing the reach of its handles covers all of it: inside and away from their middles, it is the thing that is taken.
  function within(one, event, handle) {
    var place = one && lies(one), point = S.toOwn(place, at(event)), box = handle.getBoundingClientRect();
    if (point[0] < 0 || point[1] < 0 || point[0] > place.length || point[1] > place.width) { return false; }
    var perPx = svg().getBoundingClientRect().width / svg().viewBox.baseVal.width * scale();
    var reach = Math.min(18, Math.min(place.length, place.width) * perPx * 0.3);
    return Math.hypot(event.clientX - box.left - box.width / 2, event.clientY - box.top - box.height / 2) > reach;
  }
  function move(event) {
    if (pointers[event.pointerId]) { pointers[event.pointerId] = [event.clientX, event.clientY]; }
    if (pinch) { pinching(); return; }
    if (!drag) { return; }
    if (!drag.moved && Math.hypot(event.clientX - drag.at[0], event.clientY - drag.at[1]) < HOLD_PX) { return; }
    if (drag.kind === 'tap') { drag = null; return; }
    drag.moved = true;
    if (drag.kind === 'new') { drawing(event); } else { pull(event); }
  }
  function drawing(event) {
    var point = at(event), x = snapped(point[0], event), y = snapped(point[1], event);
    var length = Math.max(data('nudge'), Math.abs(x - drag.from[0])), width = Math.max(data('nudge'), Math.abs(y - drag.from[1]));
    if (tool === 'round' || tool === 'box' && event.shiftKey) { length = width = Math.max(length, width); }
    drag.place = { x: Math.min(x, drag.from[0]), y: Math.min(y, drag.from[1]), length: length, width: width, turn: 0, corners: tool === 'round' ? circle(length) : [] };
    var group = overlay('map-new');
    make('path', { d: 'M' + S.polygon(drag.place).map(function (c) { return px(c).join(' '); }).join('L') + 'Z' }, group);
    sizes(drag.place);
    clearances(drag.place, null);
  }
  function end(event) {
    delete pointers[event.pointerId];
    if (pinch) { if (!Object.keys(pointers).length) { pinch = null; } return; }
    var done = drag;
    drag = null;
    if (!done) { return; }
    if (done.kind === 'tap' || (done.kind === 'move' && !done.moved)) { pick(done.thing); return; }
    if (done.kind === 'new') {
      var button = document.querySelector('[data-tool="' + tool + '"]');
      setDown(done.place && done.moved ? done.place : { x: done.from[0], y: done.from[1], length: Number(button.dataset.length), width: Number(button.dataset.width) });
      return;
    }
    if (done.place) { edit().dataset.chosen = done.thing.dataset.id; send(done.thing, done.place, done.begin); }
  }
  // Two fingers look closer and move the ground; they never draw.
  function startPinch() {
    var two = Object.values(pointers), box = svg().viewBox.baseVal;
    pinch = { apart: Math.hypot(two[0][0] - two[1][0], two[0][1] - two[1][1]), middle: [(two[0][0] + two[1][0]) / 2, (two[0][1] + two[1][1]) / 2], box: [box.x, box.y, box.width, box.height], whole: svg().dataset.whole || [box.width, box.height].join(' ') };
    svg().dataset.whole = pinch.whole;
  }
  function pinching() {
    var two = Object.values(pointers);
    if (two.length < 2) { return; }
    var frame = svg().getBoundingClientRect(), whole = pinch.whole.split(' ').map(Number);
    var closer = Math.min(8, Math.max(0.2, Math.hypot(two[0][0] - two[1][0], two[0][1] - two[1][1]) / pinch.apart));
    var width = Math.min(whole[0], Math.max(whole[0] / 8, pinch.box[2] / closer)), height = width * whole[1] / whole[0];
    var share = [(pinch.middle[0] - frame.left) / frame.width, (pinch.middle[1] - frame.top) / frame.height];
    var now = [(two[0][0] + two[1][0]) / 2, (two[0][1] + two[1][1]) / 2];
    var x = pinch.box[0] + share[0] * pinch.box[2] - (now[0] - frame.left) / frame.width * width;
    var y = pinch.box[1] + share[1] * pinch.box[3] - (now[1] - frame.top) / frame.height * height;
    svg().setAttribute('viewBox', [Math.max(0, Math.min(whole[0] - width, x)), Math.max(0, Math.min(whole[1] - height, y)), width, height].join(' '));
  }
  function cancel(event) {
    delete pointers[event.pointerId];
    if (drag) { drag = null; restore(); }
  }

  // --- keys -------------------------------------------------------------------------------------------------------------------------
  // Keys come in quick succession: the drawing follows each, the server hears of the last.
  function later(one, place) {
    steps.hold(stepOf(one, place, lies(one)));
    follow(one, place);
  }
  function key(event) {
    if (!edit() || event.target.closest('input, select, textarea, dialog')) { return; }
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
      if (!event.shiftKey && steps.letGo()) { event.preventDefault(); restore(); return; }
      var step = document.querySelector('#map-edit [data-step="' + (event.shiftKey ? 'redo' : 'undo') + '"]');
      if (step && !step.disabled) { event.preventDefault(); step.click(); }
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) { return; }
    if (event.key === 'Escape') { steps.letGo(); drag = null; choose('choose'); restore(); return; }
    if (event.key === 'Enter' && ghostPlace() && !event.target.closest('a, .thing')) { event.preventDefault(); setDown(ghostPlace()); return; }
    var handle = event.target.closest('.map-handle'), one = handle ? chosen() : event.target.closest('.thing');
    if (!one) { return; }
    var place = Object.assign({}, lies(one)), by = event.shiftKey ? data('snap') : data('nudge');
    var way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === 'Enter' || event.key === ' ') { event.preventDefault(); pick(one); return; }
    if (handle && handle.dataset.handle === 'corner' && event.key === 'Delete' && S.own(place).length > 3) {
      event.preventDefault();
      later(one, S.boxed(place, S.own(place).filter(function (_, n) { return n !== Number(handle.dataset.n); })));
      return;
    }
    if (handle && handle.dataset.handle === 'corner' && event.key === 'i' && !place.corners.length && !round(place) && !edit().dataset.flat) {
      event.preventDefault();
      pullIn(one, place, Number(handle.dataset.n));
      return;
    }
    if (way && handle) {
      event.preventDefault();
      var n = Number(handle.dataset.n);
      if (handle.dataset.handle === 'turn') {
        place.turn = (place.turn + (way[0] + way[1] > 0 ? 5 : 355)) % 360;
      } else if (handle.dataset.handle === 'side') {
        place = sideBy(place, n, by * [way[0], way[1], -way[0], -way[1]][n]);
      } else {
        var own = S.own(place), to = [own[n][0] + way[0] * by, own[n][1] + way[1] * by];
        place = place.corners.length ? S.boxed(place, S.cornerTo(own, n, to)) : boxCorner(place, n, to, { shiftKey: false });
      }
    } else if (way) {
      event.preventDefault();
      place.x += way[0] * by;
      place.y += way[1] * by;
    } else if ((event.key === 't' || event.key === 'T') && !edit().dataset.flat) {
      place.turn = (place.turn + (event.key === 't' ? 5 : 355)) % 360;
    } else if (event.key === 'l' || event.key === 'L') {
      place = sideBy(place, 0, (event.key === 'l' ? 1 : -1) * data('snap'));
    } else if (event.key === 'w' || event.key === 'W') {
      place = sideBy(place, 1, (event.key === 'w' ? 1 : -1) * data('snap'));
    } else { return; }
    later(one, place);
  }

  // What the pointer does by dragging a corner inward; the keyboard goes on with the corner that lies inside.
  function pullIn(one, place, n) {
    var by = Math.min(data('snap'), place.length / 2, place.width / 2);
    var pulled = S.boxed(place, S.pulledIn(place, n, by, by));
    later(one, pulled);
    handles(one, pulled, { handle: 'corner', n: [5, 2, 3, 4][n] });
  }

  // One corner more, in the middle of the longest side, to be pulled from there.
  function oneCornerMore() {
    var one = chosen();
    if (!one) { return; }
    var place = lies(one), own = S.own(place), best = 0, long = 0;
    own.forEach(function (a, n) {
      var b = own[(n + 1) % own.length], mm = Math.hypot(b[0] - a[0], b[1] - a[1]);
      if (mm > long) { long = mm; best = n; }
    });
    var next = own[(best + 1) % own.length], corners = own.slice();
    corners.splice(best + 1, 0, [(own[best][0] + next[0]) / 2, (own[best][1] + next[1]) / 2]);
    send(one, Object.assign({}, place, { corners: corners }), place);
  }

  document.addEventListener('pointerdown', begin);
  document.addEventListener('pointermove', move);
  document.addEventListener('pointerup', end);
  document.addEventListener('pointercancel', cancel);
  document.addEventListener('keydown', key);
  document.addEventListener('click', function (event) {
    var button = event.target.closest('[data-tool]');
    if (button) { choose(button.dataset.tool); }
    if (event.target.closest('[data-more-corners]')) { oneCornerMore(); }
  });
  var writing = 0;
  function writes(event) { return event.detail.requestConfig && event.detail.requestConfig.verb === 'post' && edit() ? 1 : 0; }
  document.addEventListener('htmx:beforeSend', function (event) { writing += writes(event); });
  document.addEventListener('htmx:afterRequest', function (event) { writing = Math.max(0, writing - writes(event)); });
  // After an answer the map is new: what is chosen keeps its handles and the keyboard.
  document.addEventListener('htmx:beforeSwap', function (event) {
    if (!event.detail.target || event.detail.target.id !== 'map-edit') { return; }
    // What was only looked at must not take a thing out of the hand, nor the map from the answer of what was written since.
    if ((drag || writing) && event.detail.requestConfig && event.detail.requestConfig.verb === 'get') { event.detail.shouldSwap = false; return; }
    kept = foundAgainBy(document.activeElement);
    typed = typedMeanwhile(event.detail);
    box = svg().getAttribute('viewBox');
    whole = svg().dataset.whole;
  });
  // How what has the keyboard is found in the new map.
  function foundAgainBy(focus) {
    if (!focus || !focus.closest('#map-edit')) { return ''; }
    if (focus.closest('.thing')) { return 'thing'; }
    var by = { '.map-handle': ['data-handle', 'data-n'], 'a[href]': ['href'], '[data-tool]': ['data-tool'], '[data-step]': ['data-step'], '[name]': ['name'] };
    var kind = Object.keys(by).find(function (selector) { return focus.matches(selector); });
    return kind ? by[kind].map(function (name) { return '[' + name + '="' + CSS.escape(focus.getAttribute(name)) + '"]'; }).join('') : '';
  }
  var kept = '', box = '', whole = '', typed = null;
  // What was typed into the boxes of a thing after its form was sent stays in them, and is sent when they are left.
  function typedMeanwhile(detail) {
    var form = edit().querySelector('.map-panel form[hx-trigger]');
    if (!form) { return null; }
    var found = { chosen: edit().dataset.chosen, values: {}, again: form.dataset.again };
    var config = detail.requestConfig || {}, sent = config.elt && form.contains(config.elt) ? config.parameters : null;
    Array.from(form.elements).forEach(function (field) {
      if (!field.name || field.type === 'hidden' || field.type === 'submit' || field.readOnly) { return; }
      var was = sent ? sent[field.name] : field.options ? field.value : field.defaultValue;
      if (was !== undefined && field.value !== was) { found.values[field.name] = field.value; }
    });
    return found;
  }
  function typeAgain() {
    var form = edit().querySelector('.map-panel form[hx-trigger]');
    if (!typed || !form || typed.chosen !== edit().dataset.chosen) { return; }
    Object.keys(typed.values).forEach(function (name) {
      var field = form.elements.namedItem(name);
      if (!field || field.value === typed.values[name]) { return; }
      field.value = typed.values[name];
      field.addEventListener('blur', function () { if (field.isConnected) { field.dispatchEvent(new Event('change', { bubbles: true })); } }, { once: true });
    });
    if (typed.again && Object.keys(typed.values).length) { document.addEventListener('htmx:afterSettle', function () { form.requestSubmit(); }, { once: true }); }
  }
  // Who leaves a box by a link goes when the box is kept.
  var leaving = '';
  document.addEventListener('click', function (event) {
    var link = event.target.closest('a[href]');
    if (!link || !edit() || event.ctrlKey || event.metaKey || !(edit().querySelector('.map-panel form[aria-busy]') || steps.busy())) { return; }
    event.preventDefault();
    steps.flush();
    leaving = link.href;
  }, true);
  // What was refused, or not heard of, keeps one here: the next press goes. One made since waits for an answer of its own.
  document.addEventListener('htmx:afterRequest', function () {
    var asked = leaving;
    setTimeout(function () { if (leaving === asked && !steps.busy()) { leaving = ''; } });
  });
  // What is in the hand stays in it, as long as it lies where it was taken up.
  function takeAgain() {
    var again = drag && drag.thing && thing(drag.thing.dataset.id);
    if (!drag || !drag.thing) { return; }
    if (again && (!drag.begin || same(lies(again), drag.begin))) { drag.thing = again; } else { drag = null; }
  }
  document.addEventListener('htmx:afterSwap', function (event) {
    if (!edit() || !event.detail.target || (event.detail.target.id !== 'map-edit' && event.detail.target.id !== 'main')) { return; }
    if (whole) { svg().setAttribute('viewBox', box); svg().dataset.whole = whole; }
    choose(tool); // one that was taken up meanwhile stays in the hand
    takeAgain();
    restore();
    if (drag && drag.place && drag.thing) { follow(drag.thing, drag.place); }
    var said = document.getElementById('map-said');
    document.getElementById('announce').textContent = said ? said.textContent : '';
    var one = chosen();
    var target = kept === 'thing' || (sent && !kept) ? one : kept ? edit().querySelector(kept) : null;
    sent = null;
    typeAgain();
    if (!steps.busy()) {
      if (leaving && !edit().querySelector('.field-error, form[aria-busy]')) { window.location = leaving; }
      leaving = '';
    }
    if (target) { target.focus({ preventScroll: true }); }
  });
  function start() { if (svg()) { choose('choose'); restore(); } }
  if (document.readyState === 'loading') { document.addEventListener('DOMContentLoaded', start); } else { start(); }
}());
