// Shapes of the map, in millimetres: a place is {x, y, length, width, turn, corners}. Values in, values out; nothing here touches the page.
window.MapShapes = (function () {
  function whole(place) { return [[0, 0], [place.length, 0], [place.length, place.width], [0, place.width]]; }
  function own(place) { return place.corners.length ? place.corners : whole(place); }

  function toSite(place, point) {
    var angle = place.turn * Math.PI / 180, c = Math.cos(angle), n = Math.sin(angle);
    var x = point[0] - place.length / 2, y = point[1] - place.width / 2;
    return [x * c - y * n + place.length / 2 + place.x, x * n + y * c + place.width / 2 + place.y];
  }
  function toOwn(place, point) {
    var angle = -place.turn * Math.PI / 180, c = Math.cos(angle), n = Math.sin(angle);
    var x = point[0] - place.x - place.length / 2, y = point[1] - place.y - place.width / 2;
    return [x * c - y * n + place.length / 2, x * n + y * c + place.width / 2];
  }
  function polygon(place) { return own(place).map(function (corner) { return toSite(place, corner); }); }

  // Corners given in a box's frame as a place whose box just holds them, lying where they lie on the ground.
  function boxed(place, corners) {
    var xs = corners.map(function (c) { return c[0]; }), ys = corners.map(function (c) { return c[1]; });
    var left = Math.min.apply(null, xs), top = Math.min.apply(null, ys);
    var length = Math.max.apply(null, xs) - left, width = Math.max.apply(null, ys) - top;
    var middle = toSite(place, [left + length / 2, top + width / 2]);
    var moved = corners.map(function (c) { return [c[0] - left, c[1] - top]; });
    var rectangle = moved.length === 4 && moved.every(function (c) { return (c[0] < 0.01 || c[0] > length - 0.01) && (c[1] < 0.01 || c[1] > width - 0.01); });
    return { x: middle[0] - length / 2, y: middle[1] - width / 2, length: length, width: width, turn: place.turn, corners: rectangle ? [] : moved };
  }

  // A side's corner is square when it meets its neighbours along the box's axes.
  function square(corners, at) {
    var before = corners[(at + corners.length - 1) % corners.length], here = corners[at], after = corners[(at + 1) % corners.length];
    function upright(a, b) { return Math.abs(a[0] - b[0]) < 0.01; }
    function level(a, b) { return Math.abs(a[1] - b[1]) < 0.01; }
    return (upright(before, here) && level(here, after)) || (level(before, here) && upright(here, after));
  }
  // A corner at another point; where it was square it stays so, and its neighbours go with it.
  function cornerTo(corners, at, point) {
    var moved = corners.map(function (c) { return c.slice(); }), here = corners[at];
    if (square(corners, at)) {
      [(at + corners.length - 1) % corners.length, (at + 1) % corners.length].forEach(function (next) {
        if (Math.abs(corners[next][0] - here[0]) < 0.01) { moved[next][0] = point[0]; } else if (Math.abs(corners[next][1] - here[1]) < 0.01) { moved[next][1] = point[1]; }
      });
    }
    moved[at] = point.slice();
    return moved;
  }

  // A rectangle whose corner `at` (0 top left, clockwise) was pulled inward by (m, n): an L.
  function pulledIn(place, at, m, n) {
    var a = place.length, b = place.width;
    return [
      [[m, 0], [a, 0], [a, b], [0, b], [0, n], [m, n]],
      [[0, 0], [a - m, 0], [a - m, n], [a, n], [a, b], [0, b]],
      [[0, 0], [a, 0], [a, b - n], [a - m, b - n], [a - m, b], [0, b]],
      [[0, 0], [a, 0], [a, b], [m, b], [m, b - n], [0, b - n]]
    ][at];
  }
  // What an L leaves out: [along, down]; null for another shape.
  function notch(place) {
    if (place.corners.length !== 6) { return null; }
    var inner = place.corners.find(function (c) { return c[0] > 0.01 && c[0] < place.length - 0.01 && c[1] > 0.01 && c[1] < place.width - 0.01; });
    if (!inner) { return null; }
    function kept(x, y) { return place.corners.some(function (c) { return Math.abs(c[0] - x) < 0.01 && Math.abs(c[1] - y) < 0.01; }); }
    var left = !kept(0, 0) || !kept(0, place.width), top = !kept(0, 0) || !kept(place.length, 0);
    return [left ? inner[0] : place.length - inner[0], top ? inner[1] : place.width - inner[1]];
  }

  function nearestOn(point, a, b) {
    var dx = b[0] - a[0], dy = b[1] - a[1], long = dx * dx + dy * dy;
    var share = long ? Math.max(0, Math.min(1, ((point[0] - a[0]) * dx + (point[1] - a[1]) * dy) / long)) : 0;
    return [a[0] + share * dx, a[1] + share * dy];
  }
  function inside(point, corners) {
    var found = false;
    corners.forEach(function (a, at) {
      var b = corners[(at + corners.length - 1) % corners.length];
      if ((a[1] > point[1]) !== (b[1] > point[1]) && point[0] < (b[0] - a[0]) * (point[1] - a[1]) / (b[1] - a[1]) + a[0]) { found = !found; }
    });
    return found;
  }
  // The gap between two outlines on the ground: {mm, from, to}; 0 where one lies in the other.
  function gap(first, second) {
    var best = { mm: Infinity, from: null, to: null };
    function look(corners, others, turned) {
      corners.forEach(function (corner) {
        others.forEach(function (b, at) {
          var on = nearestOn(corner, others[(at + others.length - 1) % others.length], b);
          var mm = Math.hypot(corner[0] - on[0], corner[1] - on[1]);
          if (mm < best.mm) { best = turned ? { mm: mm, from: on, to: corner } : { mm: mm, from: corner, to: on }; }
        });
      });
    }
    look(first, second, false);
    look(second, first, true);
    if (first.some(function (c) { return inside(c, second); }) || second.some(function (c) { return inside(c, first); })) { best.mm = 0; }
    return best;
  }
  function farthest(point, corners) { return Math.max.apply(null, corners.map(function (c) { return Math.hypot(c[0] - point[0], c[1] - point[1]); })); }

  // A length as the server writes it, to the quarter inch or the millimetre.
  function words(mm, units) {
    if (units === 'metric') {
      var round = Math.round(mm);
      return round >= 1000 ? String(round / 1000) + ' m' : round >= 10 ? String(round / 10) + ' cm' : round + ' mm';
    }
    var quarters = Math.round(mm / 25.4 * 4), feet = Math.floor(quarters / 48), rest = quarters % 48;
    var part = ['', '1/4', '1/2', '3/4'][rest % 4], inches = Math.floor(rest / 4);
    var text = [inches || !part ? String(inches) : '', part].filter(Boolean).join(' ');
    if (!feet) { return text + ' in'; }
    return rest ? feet + ' ft ' + text + ' in' : feet + ' ft';
  }

  return { own: own, toSite: toSite, toOwn: toOwn, polygon: polygon, boxed: boxed, cornerTo: cornerTo, pulledIn: pulledIn, notch: notch, gap: gap, farthest: farthest, words: words };
}());
