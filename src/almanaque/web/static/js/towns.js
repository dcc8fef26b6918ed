// A town is found by typing the beginning of its name; the one that is chosen fills the fields of the place. Without script the form's
// button finds them.
(function () {
  var WAIT_MS = 200;
  function fill(form, town) {
    var fields = form.elements, values = { place_name: town.words, latitude: town.latitude, longitude: town.longitude, zone: town.zone };
    if (fields.place && !fields.place_name) { // a school that is not there yet: one field for all three
      document.querySelectorAll('.found-towns').forEach(function (old) { old.remove(); });
      fields.place.value = [town.latitude, town.longitude, town.zone].join(',');
    } else {
      Object.keys(values).forEach(function (name) { fields[name].value = values[name]; });
    }
    document.getElementById('announce').textContent = town.words + ' is filled in.';
    var picture = document.getElementById('place-picture');
    if (picture) { htmx.ajax('GET', '/towns/light?latitude=' + town.latitude + '&zone=' + encodeURIComponent(town.zone), { target: picture, swap: 'innerHTML show:none' }); }
  }
  function folded(text) { return text.normalize('NFD').replace(/[\u0300-\u036f]/g, '').toLowerCase(); }
  function enhance(input) {
    var form = document.getElementById(input.dataset.towns), list = document.createElement('ul'), box = document.createElement('div');
    var found = [], last = '', timer = null, serial = 0;
    list.id = input.id + '-list';
    list.setAttribute('aria-label', 'Towns');
    box.className = 'combo';
    input.before(box);
    box.append(input, list);
    document.querySelectorAll('[data-without-script]').forEach(function (button) { button.hidden = true; });
    function lines(text, add) { found.forEach(function (town, at) { add(String(at), town.words, null, town.words === last); }); }
    function take(at) {
      last = found[Number(at)].words;
      input.value = last;
      fill(form, found[Number(at)]);
    }
    var listbox = Listbox(input, list, lines, take, function () {});
    function forget() {
      last = '';
      if (form.elements.place && !form.elements.place_name) { form.elements.place.value = ''; }
    }
    function look() {
      var mine = serial += 1, text = input.value.trim();
      if (text.length < 2 || text === last) { return; }
      fetch('/towns?name=' + encodeURIComponent(text), { credentials: 'same-origin' })
        .then(function (answer) { return answer.ok ? answer.json() : []; })
        .then(function (towns) {
          if (mine !== serial || document.activeElement !== input) { return; }
          found = towns;
          listbox.open(text);
        })
        .catch(function () { /* typed numbers do as well */ });
    }
    // What was found for less of the name stays only where it still fits: Enter never takes a town that was not meant.
    function narrow() {
      serial += 1;
      found = found.filter(function (town) { return folded(town.words).startsWith(folded(input.value.trim())); });
      if (!list.hidden) { if (found.length) { listbox.open(input.value); } else { listbox.close(); } }
    }
    input.addEventListener('input', function () { forget(); narrow(); clearTimeout(timer); timer = setTimeout(look, WAIT_MS); });
    input.addEventListener('keydown', function (event) {
      if ((event.key === 'ArrowDown' || event.key === 'ArrowUp') && list.hidden) { event.stopImmediatePropagation(); look(); }
    }, true);
  }
  function all() { document.querySelectorAll('input[data-towns]').forEach(enhance); }
  if (document.readyState === 'loading') { document.addEventListener('DOMContentLoaded', all); } else { all(); }
}());
