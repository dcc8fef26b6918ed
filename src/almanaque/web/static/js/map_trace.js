// Tracing over a picture: A and B are set by two presses on it and moved with the pointer or the keys, north by an arrow. The server
// lays the picture anew.
(function () {
  var NS = 'http://www.w3.org/2000/svg';
  var form = null, mode = '', points = [], held = null, arrow = 0;

  function svg() { return document.querySelector('#map-edit .map-picture'); }
  function scale() { return Number(document.getElementById('map-edit').dataset.scale); }
  function at(event) {
    var matrix = svg().getScreenCTM().inverse();
    return [(event.clientX * matrix.a + matrix.e) / scale(), (event.clientY * matrix.d + matrix.f) / scale()];
  }
  function make(name, attributes, parent, text) {
    var element = document.createElementNS(NS, name);
    Object.keys(attributes).forEach(function (key) { element.setAttribute(key, attributes[key]); });
    if (text) { element.textContent = text; }
    parent.appendChild(element);
    return element;
  }
  function draw() {
    var old = svg().querySelector('.map-trace');
    if (old) { old.remove(); }
    var group = make('g', { class: 'map-trace' }, svg()), s = scale();
    if (mode === 'points') {
      if (points.length === 2) { make('path', { d: 'M' + points.map(function (p) { return p[0] * s + ' ' + p[1] * s; }).join('L') }, group); }
      points.forEach(function (point, n) {
        var spot = make('g', { transform: 'translate(' + point[0] * s + ' ' + point[1] * s + ')', 'data-point': n, tabindex: 0, role: 'button', 'aria-label': 'Point ' + 'AB'[n] + ': arrows move it' }, group);
        make('circle', { r: 11 }, spot);
        make('text', { y: 4.5 }, spot, 'AB'[n]);
      });
      form.elements.a.value = points[0] ? points[0].join(',') : '';
      form.elements.b.value = points[1] ? points[1].join(',') : '';
    } else {
      var box = svg().viewBox.baseVal, middle = [box.width / 2, box.height / 2];
      var spot = make('g', { transform: 'translate(' + middle[0] + ' ' + middle[1] + ') rotate(' + arrow + ')', 'data-arrow': 'yes', tabindex: 0, role: 'slider', 'aria-label': 'Where north lies on the picture', 'aria-valuemin': 0, 'aria-valuemax': 359, 'aria-valuenow': arrow }, group);
      make('path', { d: 'M0 60V-60M-12 -42L0 -62L12 -42' }, spot);
      make('circle', { r: 14, cy: -62, class: 'reach' }, spot);
      make('text', { y: -70 }, spot, 'N');
      form.elements.arrow.value = arrow;
    }
  }
  function leave() {
    delete document.body.dataset.tracing;
    var old = svg() && svg().querySelector('.map-trace');
    if (old) { old.remove(); }
    form = null;
  }

  document.addEventListener('click', function (event) {
    var button = event.target.closest('[data-trace]');
    if (!button) { return; }
    form = button.closest('form');
    mode = button.dataset.trace;
    var box = svg().viewBox.baseVal, across = box.width / scale(), down = box.height / scale();
    points = mode === 'points' && !event.detail ? [[across / 3, down / 2], [across * 2 / 3, down / 2]] : []; // by keys both are there, to be moved
    arrow = 0;
    document.body.dataset.tracing = mode;
    form.querySelector('[data-trace-north]').hidden = mode !== 'north';
    form.parentNode.querySelector('[data-trace-help]').textContent = mode === 'points' ? 'Press A, then B, on the picture; write how far apart they really are.' : 'Turn the arrow to where north lies on the picture, then press Turn it to north.';
    draw();
    svg().scrollIntoView({ block: 'nearest' });
    var first = !event.detail && svg().querySelector('[data-point], [data-arrow]');
    if (first) { first.focus({ preventScroll: true }); }
  });
  document.addEventListener('pointerdown', function (event) {
    if (!form || !svg() || !svg().contains(event.target)) { return; }
    event.preventDefault();
    var spot = event.target.closest('[data-point]');
    if (mode === 'points') {
      if (spot) { held = Number(spot.dataset.point); return; }
      if (points.length < 2) { points.push(at(event)); held = points.length - 1; } else { held = 1; points[1] = at(event); }
      draw();
      if (points.length === 2) { form.elements.namedItem('true').focus({ preventScroll: true }); }
    } else if (event.target.closest('[data-arrow]')) { held = 0; }
  });
  document.addEventListener('pointermove', function (event) {
    if (!form || held === null) { return; }
    if (mode === 'points') { points[held] = at(event); } else {
      var box = svg().viewBox.baseVal, point = at(event), s = scale();
      arrow = Math.round((Math.atan2(point[0] * s - box.width / 2, box.height / 2 - point[1] * s) * 180 / Math.PI + 360) % 360);
    }
    draw();
  });
  document.addEventListener('pointerup', function () { held = null; });
  document.addEventListener('keydown', function (event) {
    if (!form) { return; }
    if (event.key === 'Escape') { leave(); return; }
    var way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    var spot = event.target.closest && event.target.closest('[data-point], [data-arrow]');
    if (!way || !spot) { return; }
    event.preventDefault();
    event.stopPropagation();
    if (spot.dataset.arrow) { arrow = (arrow + way[0] + way[1] + 360) % 360; } else {
      var n = Number(spot.dataset.point), by = event.shiftKey ? 300 : 25;
      points[n] = [points[n][0] + way[0] * by, points[n][1] + way[1] * by];
    }
    draw();
    var again = svg().querySelector(spot.dataset.arrow ? '[data-arrow]' : '[data-point="' + spot.dataset.point + '"]');
    if (again) { again.focus({ preventScroll: true }); }
  }, true);
  document.addEventListener('htmx:afterSwap', function () { if (form && !form.isConnected) { leave(); } });
}());
