// Plays the garden through the school year on the map or on a bed: what is sown, grows, is picked, covered, in the shade of noon.
// The day that is shown at the end is one press away.
(function () {
  var TURNS = 7, TURN = 137 * Math.PI / 180, SOWN = '#7a5a3a', PICKED = '#d5792a', COVERED = 'rgba(228, 238, 244, .62)', SHADE = 'rgba(40, 52, 66, .2)';
  var bar = document.getElementById('garden-play');
  if (!bar) { return; }
  var open = bar.querySelector('[data-open]'), ofBed = bar.dataset.bed || '', SPRITE_PX = ofBed ? 144 : 40;
  var year = null, sprites = [], maps = [], waiting = 0, played = null;

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
    if (maps.length) { maps.forEach(function (map) { draw(map, played.at()); }); }
  }

  // A canvas over a drawing; `scale` are its units a millimetre, `left` and `top` where its first corner lies.
  function prepare(svg) {
    var box = document.createElement('div'), canvas = document.createElement('canvas'), view = svg.viewBox.baseVal, data = svg.dataset;
    box.className = 'map-played';
    svg.before(box);
    box.append(svg, canvas);
    svg.classList.add('is-played');
    canvas.setAttribute('aria-hidden', 'true');
    return { svg: svg, canvas: canvas, site: data.site || '', scale: Number(data.scale), left: Number(data.left || 0), top: Number(data.top || 0), wide: view.width };
  }

  // The look of a planting on a day: the picture of the week before, its size between that and the next one.
  function look(planting, day) {
    var looks = planting.looks, n = 0;
    if (!looks.length || day < looks[0][0]) { return null; }
    while (n + 1 < looks.length && looks[n + 1][0] <= day) { n += 1; }
    var here = looks[n], next = looks[n + 1] || here, share = next[0] > here[0] ? (day - here[0]) / (next[0] - here[0]) : 0;
    return [here[1], here[1] === next[1] ? here[2] + (next[2] - here[2]) * share : here[2]];
  }

  function within(day, span) { return Boolean(span) && span[0] <= day && day <= span[1]; }

  // Where a place in a bed lies on the canvas.
  function placing(map, bed, k) {
    if (ofBed) { return function (x, y) { return [map.left * k / map.scale + x * k, map.top * k / map.scale + y * k]; }; }
    var turn = bed.turn * Math.PI / 180, cos = Math.cos(turn), sin = Math.sin(turn), mx = bed.middle[0], my = bed.middle[1];
    return function (x, y) {
      return [(bed.x + mx + (x - mx) * cos - (y - my) * sin) * k, (bed.y + my + (x - mx) * sin + (y - my) * cos) * k];
    };
  }

  function dot(pen, point, radius, colour) {
    pen.fillStyle = colour;
    pen.beginPath();
    pen.arc(point[0], point[1], radius, 0, 2 * Math.PI);
    pen.fill();
  }

  function drawPlanting(pen, map, planting, day, k) {
    var at = placing(map, year.beds[planting.bed], k), seen = look(planting, day), points = planting.points;
    if (seen && !sprites[seen[0]].length) { return; }
    for (var n = 0; n < points.length; n += 2) {
      var point = at(points[n], points[n + 1]);
      if (!seen) { dot(pen, point, Math.max(1, 18 * k), SOWN); continue; }
      var side = seen[1] * k;
      pen.drawImage(sprites[seen[0]][n / 2 % TURNS], point[0] - side / 2, point[1] - side / 2, side, side);
    }
    var xs = points.filter(function (_, i) { return i % 2 === 0; }), ys = points.filter(function (_, i) { return i % 2; });
    var left = Math.min.apply(null, xs), right = Math.max.apply(null, xs), low = Math.min.apply(null, ys), high = Math.max.apply(null, ys);
    if (within(day, planting.cover)) {
      pen.fillStyle = COVERED;
      pen.beginPath();
      [[left - 120, low - 120], [right + 120, low - 120], [right + 120, high + 120], [left - 120, high + 120]].forEach(function (corner) { pen.lineTo.apply(pen, at(corner[0], corner[1])); });
      pen.fill();
    }
    if (within(day, planting.picking)) {
      var middle = at((left + right) / 2, (low + high) / 2);
      dot(pen, middle, Math.max(5, Math.min(16, 90 * k)), '#fff');
      dot(pen, middle, Math.max(3.6, Math.min(12, 66 * k)), PICKED);
    }
  }

  function drawShade(pen, map, day, k) {
    var step = null;
    year.shade.forEach(function (one) { if (one.day <= day) { step = one; } });
    if (!step || !step.paths[map.site]) { return; }
    pen.save();
    pen.scale(k, k);
    pen.fillStyle = SHADE;
    pen.fill(new Path2D(step.paths[map.site]));
    pen.restore();
  }

  function draw(map, day) {
    var canvas = map.canvas, ratio = Math.min(2, window.devicePixelRatio || 1);
    var wide = Math.round(canvas.clientWidth * ratio), high = Math.round(canvas.clientHeight * ratio);
    if (canvas.width !== wide || canvas.height !== high) { canvas.width = wide; canvas.height = high; }
    var pen = canvas.getContext('2d'), k = wide / map.wide * map.scale;
    pen.setTransform(1, 0, 0, 1, 0, 0);
    pen.clearRect(0, 0, wide, high);
    year.plantings.forEach(function (planting) {
      var here = ofBed || year.beds[planting.bed].site === map.site;
      if (here && planting.first <= day && day <= planting.last) { drawPlanting(pen, map, planting, day, k); }
    });
    year.covers.forEach(function (cover) {
      if (!ofBed && cover.site === map.site && within(day, [cover.first, cover.last])) {
        pen.save();
        pen.scale(k, k);
        pen.fillStyle = COVERED;
        pen.fill(new Path2D(cover.path));
        pen.restore();
      }
    });
    if (!ofBed) { drawShade(pen, map, day, k); }
  }

  function show(day, iso) {
    // A bed's drawing may be another one by now.
    if (!maps.length || !maps[0].svg.isConnected) {
      maps = Array.from(document.querySelectorAll(ofBed ? '.bed-figure .bed-picture' : '.site-map .map-picture')).map(prepare);
    }
    maps.forEach(function (map) { draw(map, day); });
    open.href = bar.dataset.at + (bar.dataset.at.indexOf('?') < 0 ? '?' : '&') + 'show=looks&day=' + iso;
  }

  function words(day) {
    var gap = year.breaks.find(function (one) { return one[0] <= day && day <= one[1]; });
    return gap ? ' · ' + gap[2] : '';
  }

  fetch('/garden/year.json?day=' + bar.dataset.day + (ofBed ? '&bed=' + ofBed : ''), { headers: { Accept: 'application/json' } })
    .then(function (answer) { return answer.ok ? answer.json() : null; })
    .then(function (found) {
      if (!found) { return; }
      year = found;
      waiting = year.pictures.length;
      sprites = year.pictures.map(sprite);
      if (!waiting) { bar.dataset.pictures = 'all'; }
      played = PlayBar(bar, year.first, year.days, words, show);
    })
    .catch(function () {});
})();
