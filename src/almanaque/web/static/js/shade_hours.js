// The map's shade at an hour of the shown day, moved by a handle or played; beside it how much of each bed lies in it.
(function () {
  var bar = document.getElementById('shade-hours'), NS = 'http://www.w3.org/2000/svg', STEP_MS = 260;
  if (!bar) { return; }
  var slider = bar.querySelector('input'), said = bar.querySelector('output'), button = bar.querySelector('[data-play]');
  var list = document.getElementById('shade-list'), marks = document.getElementById('lesson-hours'), calm = window.matchMedia('(prefers-reduced-motion: reduce)');
  var day = null, layers = [], timer = null;

  function clock(hours) { return Math.floor(hours) + ':' + (hours % 1 ? '30' : '00'); }
  function from(degrees) { return ['north', 'northeast', 'east', 'southeast', 'south', 'southwest', 'west', 'northwest'][Math.round(degrees / 45) % 8]; }

  function layer(svg) {
    var group = document.createElementNS(NS, 'g'), path = document.createElementNS(NS, 'path');
    group.setAttribute('transform', 'scale(' + svg.dataset.scale + ')');
    group.setAttribute('aria-hidden', 'true');
    path.setAttribute('class', 'hour-shade');
    group.appendChild(path);
    svg.insertBefore(group, svg.querySelector('.map-labels'));
    return { site: svg.dataset.site, path: path };
  }

  function show(number) {
    var step = day.steps[number];
    slider.value = number;
    layers.forEach(function (one) { one.path.setAttribute('d', step.shade[one.site] || 'M0 0'); });
    var words = clock(step.clock) + ', sun ' + Math.round(step.altitude) + '° high in the ' + from(step.azimuth);
    var lesson = day.lessons.find(function (one) { return one[0] <= step.clock && step.clock < one[1]; });
    if (lesson) { words += ' · lesson of ' + lesson[2]; }
    said.textContent = words;
    slider.setAttribute('aria-valuetext', words);
    list.replaceChildren();
    Object.keys(day.beds).map(function (id) { return [day.beds[id][0], step.beds[id] || 0, day.beds[id][1]]; })
      .filter(function (row) { return row[1]; })
      .sort(function (a, b) { return b[1] / b[2] - a[1] / a[2]; })
      .forEach(function (row) {
        var line = document.createElement('li');
        line.textContent = row[0] + ': ' + row[1] + ' of ' + row[2] + ' squares';
        list.appendChild(line);
      });
    if (!list.children.length) { var none = document.createElement('li'); none.textContent = 'No bed.'; list.appendChild(none); }
  }

  function stop() {
    window.clearInterval(timer);
    timer = null;
    button.textContent = 'Play the day';
    button.setAttribute('aria-pressed', 'false');
  }

  button.addEventListener('click', function () {
    if (timer) { stop(); return; }
    var at = Number(slider.value);
    if (calm.matches) { show(Math.min(day.steps.length - 1, at + 2)); return; }
    if (at >= day.steps.length - 1) { show(0); }
    button.textContent = 'Stop';
    button.setAttribute('aria-pressed', 'true');
    timer = window.setInterval(function () {
      var next = Number(slider.value) + 1;
      if (next >= day.steps.length) { stop(); return; }
      show(next);
    }, STEP_MS);
  });
  slider.addEventListener('input', function () { stop(); show(Number(slider.value)); });

  fetch('/garden/shade.json?day=' + bar.dataset.day, { headers: { Accept: 'application/json' } })
    .then(function (answer) { return answer.ok ? answer.json() : null; })
    .then(function (found) {
      if (!found || !found.steps.length) { return; }
      day = found;
      layers = Array.from(document.querySelectorAll('.site-map .map-picture')).map(layer);
      slider.max = day.steps.length - 1;
      var first = day.steps.findIndex(function (step) { return step.clock >= 10; });
      show(first < 0 ? 0 : first);
      marks.replaceChildren.apply(marks, day.lessons.map(function (one) {
        var mark = document.createElement('button');
        mark.type = 'button';
        mark.className = 'quiet';
        mark.textContent = one[2] + ', ' + clock(Math.floor(one[0] * 2) / 2);
        mark.addEventListener('click', function () {
          stop();
          show(Math.max(0, day.steps.findIndex(function (step) { return step.clock >= Math.floor(one[0] * 2) / 2; })));
        });
        return mark;
      }));
      bar.classList.remove('is-waiting');
      document.getElementById('shade-panel').hidden = false;
      bar.dataset.ready = 'yes';
    })
    .catch(function () {});
})();
