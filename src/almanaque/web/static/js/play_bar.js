// A bar that plays days: a button, two steps, a slider. What is shown follows from the day alone, so that backward is as forward.
// A second is a fortnight; who wants less motion steps.
var PlayBar = (function () {
  var DAY = 86400000, DAYS_A_SECOND = 14;

  // `days` is how many there are from `first` on; `words` adds to a day's name; `show` is told each day that is shown.
  return function (bar, first, days, words, show) {
    var slider = bar.querySelector('input'), said = bar.querySelector('output'), button = bar.querySelector('[data-play]');
    var calm = window.matchMedia('(prefers-reduced-motion: reduce)'), playing = null, at = 0;

    function dateOf(number) { return new Date(Date.parse(first + 'T00:00:00Z') + Math.floor(number) * DAY); }

    function tell() {
      var text = dateOf(at).toLocaleDateString('en', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }) + words(at);
      slider.value = Math.floor(at);
      if (said.textContent !== text) { said.textContent = text; slider.setAttribute('aria-valuetext', text); }
    }

    function go(day) {
      at = Math.max(0, Math.min(days - 1, day));
      bar.classList.add('is-shown');
      show(at, dateOf(at).toISOString().slice(0, 10));
      tell();
    }

    function stop() {
      if (playing) { window.cancelAnimationFrame(playing.frame); }
      playing = null;
      button.setAttribute('aria-pressed', 'false');
      button.textContent = calm.matches ? 'Two weeks on' : 'Play the year';
    }

    function play() {
      if (at >= days - 1) { go(0); }
      playing = { last: null, frame: 0 };
      button.setAttribute('aria-pressed', 'true');
      button.textContent = 'Stop';
      function step(now) {
        if (!playing) { return; }
        if (playing.last !== null) { go(at + (now - playing.last) / 1000 * DAYS_A_SECOND); }
        playing.last = now;
        if (at >= days - 1) { stop(); return; }
        playing.frame = window.requestAnimationFrame(step);
      }
      playing.frame = window.requestAnimationFrame(step);
    }

    button.addEventListener('click', function () {
      if (playing) { stop(); return; }
      if (calm.matches) { go(at + 14); return; }
      play();
    });
    bar.querySelectorAll('[data-step]').forEach(function (one) {
      one.addEventListener('click', function () { stop(); go(at + Number(one.dataset.step)); });
    });
    slider.addEventListener('input', function () { stop(); go(Number(slider.value)); });

    at = Math.max(0, Math.min(days - 1, Math.round((Date.parse(bar.dataset.day + 'T00:00:00Z') - dateOf(0)) / DAY)));
    slider.max = days - 1;
    tell();
    stop();
    bar.classList.remove('is-waiting');
    bar.dataset.ready = 'yes';
    return { at: function () { return at; } };
  };
})();
