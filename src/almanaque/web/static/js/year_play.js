// Plays the school year on its chart: the line of the day goes on, and what grows or is picked then stands out.
(function () {
  var bar = document.getElementById('year-play'), NS = 'http://www.w3.org/2000/svg', svg = document.querySelector('.year-picture');
  if (!bar || !svg) { return; }
  var left = Number(svg.dataset.left), dayPx = Number(svg.dataset.dayPx), days = Number(bar.dataset.days), list = document.getElementById('year-now');
  var line = document.createElementNS(NS, 'path');
  line.setAttribute('class', 'year-day is-played');
  line.setAttribute('aria-hidden', 'true');

  function end(rect) { return Number(rect.getAttribute('x')) + Number(rect.getAttribute('width')); }

  function show(day) {
    var x = left + day * dayPx, growing = 0, picked = [];
    if (!line.parentNode) { svg.appendChild(line); }
    line.setAttribute('d', 'M' + x.toFixed(1) + ' 8V' + svg.viewBox.baseVal.height);
    svg.classList.add('is-playing');
    svg.querySelectorAll('.bar').forEach(function (one) {
      var grow = one.querySelector('.grow'), pick = one.querySelector('.pick');
      var picks = Number(pick.getAttribute('x')) <= x && x <= end(pick), grows = !picks && Number(grow.getAttribute('x')) <= x && x <= end(grow);
      one.classList.toggle('is-now', picks || grows);
      growing += grows ? 1 : 0;
      if (picks) { picked.push(one.querySelector('.bar-name').textContent.replace(/[■▲]/g, '').trim()); }
    });
    list.textContent = growing + ' growing' + (picked.length ? '; being picked: ' + Array.from(new Set(picked)).join(', ') : '');
  }

  PlayBar(bar, svg.dataset.starts, days, function () { return ''; }, show);
})();
