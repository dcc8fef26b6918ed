// Plays the garden through the school year on the map: every frame is drawn from its day alone, so that backward is as forward.
// A second is a fortnight; who wants less motion steps. The day that is shown at the end is one press away.
(function () {
  var DAY = 86400000, DAYS_A_SECOND = 14, SPRITE_PX = 40, TURNS = 7, TURN = 137 * Math.PI / 180;
  var bar = document.getElementById('garden-play');
  if (!bar) { return; }
  var slider = bar.querySelector('input'), said = bar.querySelector('output'), button = bar.querySelector('[data-play]'), open = bar.querySelector('[data-open]');
  var calm = window.matchMedia('(prefers-reduced-motion: reduce)');
  var year = null, sprites = [], maps = [], playing = null, at = 0, waiting = 0;

  function dayText(number) {
    var day = new Date(Date.parse(year.first + 'T00:00:00Z') + Math.floor(number) * DAY);
    var gap = year.breaks.find(function (one) { return one[0] <= number && number <= one[1]; });
    return day.toLocaleDateString('en', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }) + (gap ? ' · ' + gap[2] : '');
  }

  // A picture a few times, turned: so that no plant has to be turned while it plays, which a slow processor feels.
  function sprite(href) {
    var picture = new Image(), drawn = [];
    picture.onload = function () {
      for (var n = 0; n < TURNS; n += 1) {
        var one = document.createElement('canvas'), pen = one.getContext('2d');
        one.width = one.height = SPRITE_PX;
        pen.translate(SPRITE_PX / 2, SPRITE_PX / 2);
        pen.rotate(n * TURN);
        pen.drawImage(picture, -SPRITE_PX / 2, -SPRITE_PX / 2, SPRITE_PX, SPRITE_PX);
        drawn.push(one);
      }
      loaded();
    };
    picture.onerror = loaded;
    picture.src = href;
    return drawn;
  }

  function loaded() {
    waiting -= 1;
    if (!waiting) { bar.dataset.pictures = 'all'; }
    draw();
  }

  function prepare(svg) {
    var box = document.createElement('div'), canvas = document.createElement('canvas'), view = svg.viewBox.baseVal;
    box.className = 'map-played';
    svg.before(box);
    box.append(svg, canvas);
    svg.classList.add('is-played');
    canvas.setAttribute('aria-hidden', 'true');
    return { canvas: canvas, site: svg.dataset.site, scale: Number(svg.dataset.scale), wide: view.width, high: view.height };
  }

  // The look of a planting on a day: the picture of the week before, its size between that and the next one.
  function look(planting, day) {
    var looks = planting.looks, n = 0;
    if (day < planting.first || day > planting.last || day < looks[0][0]) { return null; }
    while (n + 1 < looks.length && looks[n + 1][0] <= day) { n += 1; }
    var here = looks[n], next = looks[n + 1] || here, share = next[0] > here[0] ? (day - here[0]) / (next[0] - here[0]) : 0;
    return [here[1], here[1] === next[1] ? here[2] + (next[2] - here[2]) * share : here[2]];
  }

  function drawMap(map) {
    var canvas = map.canvas, ratio = Math.min(2, window.devicePixelRatio || 1);
    var wide = Math.round(canvas.clientWidth * ratio), high = Math.round(canvas.clientHeight * ratio);
    if (canvas.width !== wide || canvas.height !== high) { canvas.width = wide; canvas.height = high; }
    var pen = canvas.getContext('2d'), k = wide / map.wide * map.scale;
    pen.setTransform(1, 0, 0, 1, 0, 0);
    pen.clearRect(0, 0, wide, high);
    year.plantings.forEach(function (planting) {
      var bed = year.beds[planting.bed], seen = bed.site === map.site && look(planting, at);
      if (!seen || !sprites[seen[0]].length) { return; }
      var turn = bed.turn * Math.PI / 180, cos = Math.cos(turn), sin = Math.sin(turn), side = seen[1] * k, pictures = sprites[seen[0]];
      for (var n = 0; n < planting.points.length; n += 2) {
        var x = planting.points[n] - bed.middle[0], y = planting.points[n + 1] - bed.middle[1];
        var px = (bed.x + bed.middle[0] + x * cos - y * sin) * k, py = (bed.y + bed.middle[1] + x * sin + y * cos) * k;
        pen.drawImage(pictures[n / 2 % TURNS], px - side / 2, py - side / 2, side, side);
      }
    });
  }

  function draw() {
    if (!year || !maps.length) { return; }
    maps.forEach(drawMap);
    slider.value = Math.floor(at);
    open.href = '/garden?show=looks&day=' + new Date(Date.parse(year.first + 'T00:00:00Z') + Math.floor(at) * DAY).toISOString().slice(0, 10);
    var words = dayText(at);
    if (said.textContent !== words) { said.textContent = words; slider.setAttribute('aria-valuetext', words); }
  }

  function show(day) {
    at = Math.max(0, Math.min(year.days - 1, day));
    if (!maps.length) { maps = Array.from(document.querySelectorAll('.site-map .map-picture')).map(prepare); }
    draw();
  }

  function stop() {
    if (playing) { window.cancelAnimationFrame(playing.frame); }
    playing = null;
    button.setAttribute('aria-pressed', 'false');
    button.textContent = calm.matches ? 'Two weeks on' : 'Play the year';
  }

  function play() {
    if (at >= year.days - 1) { show(0); }
    playing = { last: null, frame: 0 };
    button.setAttribute('aria-pressed', 'true');
    button.textContent = 'Stop';
    function step(now) {
      if (!playing) { return; }
      if (playing.last !== null) { show(at + (now - playing.last) / 1000 * DAYS_A_SECOND); }
      playing.last = now;
      if (at >= year.days - 1) { stop(); return; }
      playing.frame = window.requestAnimationFrame(step);
    }
    playing.frame = window.requestAnimationFrame(step);
  }

  button.addEventListener('click', function () {
    if (playing) { stop(); return; }
    if (calm.matches) { show(at + 14); return; }
    play();
  });
  bar.querySelectorAll('[data-step]').forEach(function (one) {
    one.addEventListener('click', function () { stop(); show(at + Number(one.dataset.step)); });
  });
  slider.addEventListener('input', function () { stop(); show(Number(slider.value)); });

  fetch('/garden/year.json?day=' + bar.dataset.day, { headers: { Accept: 'application/json' } })
    .then(function (answer) { return answer.ok ? answer.json() : null; })
    .then(function (found) {
      if (!found) { return; }
      year = found;
      waiting = year.pictures.length;
      sprites = year.pictures.map(sprite);
      at = Math.round((Date.parse(bar.dataset.day + 'T00:00:00Z') - Date.parse(year.first + 'T00:00:00Z')) / DAY);
      slider.max = year.days - 1;
      slider.value = at;
      said.textContent = dayText(at);
      if (calm.matches) { button.textContent = 'Two weeks on'; }
      bar.classList.remove('is-waiting');
      bar.dataset.ready = 'yes';
    })
    .catch(function () {});
})();
