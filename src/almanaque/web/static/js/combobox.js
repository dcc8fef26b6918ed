// The list under a field in which one types: the combobox of the ARIA practices. `lines` fills the list for what is typed, `take` is told
// the line that was chosen, `left` that the list closed without one.
window.Listbox = function (input, list, lines, take, left) {
  var active = -1, shown = [];
  list.className = 'combo-list';
  list.hidden = true;
  list.setAttribute('role', 'listbox');
  [['role', 'combobox'], ['aria-autocomplete', 'list'], ['aria-expanded', 'false'], ['aria-controls', list.id]].forEach(function (pair) { input.setAttribute(pair[0], pair[1]); });
  function point() {
    shown.forEach(function (line, at) { line.classList.toggle('is-active', at === active); });
    if (active < 0) { input.removeAttribute('aria-activedescendant'); return; }
    input.setAttribute('aria-activedescendant', shown[active].id);
    shown[active].scrollIntoView({ block: 'nearest' });
  }
  function close(back) {
    list.hidden = true;
    active = -1;
    input.setAttribute('aria-expanded', 'false');
    input.removeAttribute('aria-activedescendant');
    if (back) { left(); }
  }
  function head(text) {
    var line = document.createElement('li');
    line.className = 'combo-head';
    line.setAttribute('role', 'presentation');
    line.textContent = text;
    list.appendChild(line);
  }
  function add(value, text, before, selected) {
    var line = document.createElement('li');
    line.id = list.id + '-' + shown.length;
    line.setAttribute('role', 'option');
    line.setAttribute('aria-selected', String(Boolean(selected)));
    line.dataset.value = value;
    if (before) { line.appendChild(before); }
    line.append(text);
    list.appendChild(line);
    shown.push(line);
  }
  function open(text) {
    list.replaceChildren();
    shown = [];
    lines(text, add, head);
    if (!shown.length) { head('Nothing of that name'); }
    list.hidden = false;
    active = text && shown.length ? 0 : -1;
    input.setAttribute('aria-expanded', 'true');
    point();
  }
  function chosen() { var line = shown[active]; close(false); take(line.dataset.value); }
  input.addEventListener('keydown', function (event) {
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault();
      if (list.hidden) { open(''); }
      active = Math.max(0, Math.min(shown.length - 1, active + (event.key === 'ArrowDown' ? 1 : -1)));
      point();
    } else if (event.key === 'Enter' && !list.hidden) {
      event.preventDefault();
      if (active >= 0) { chosen(); } else { close(true); }
    } else if (event.key === 'Escape' && !list.hidden) {
      event.preventDefault();
      event.stopPropagation();
      close(true);
    } else if (event.key === 'Tab' && !list.hidden) {
      if (active >= 0) { chosen(); } else { close(true); }
    }
  });
  input.addEventListener('blur', function () { if (!list.hidden) { close(true); } else { left(); } });
  list.addEventListener('pointerdown', function (event) { event.preventDefault(); });
  list.addEventListener('click', function (event) {
    var line = event.target.closest('[role=option]');
    if (line) { close(false); take(line.dataset.value); }
  });
  return {
    open: open,
    close: function () { close(false); },
    // What is pointed at stays pointed at while the list comes anew.
    again: function () {
      var value = active >= 0 ? shown[active].dataset.value : null;
      open('');
      active = value === null ? -1 : shown.findIndex(function (line) { return line.dataset.value === value; });
      point();
    }
  };
};

// A list of crops or beds that one searches by typing any part of a name, over a plain select, which stays in its form and is all there is
// without script.
(function () {
  var MANY = 12;
  var words = null, asked = null, serial = 0;

  function folded(text) { return text.normalize('NFD').replace(/[\u0300-\u036f]/g, '').toLowerCase(); }
  function wanted(select) {
    return !select.dataset.combo && !select.multiple && select.options.length > MANY && (select.name === 'crop' || select.name === 'bed' || 'combobox' in select.dataset);
  }
  // Codes, colours, and names in other languages, asked once for the page.
  function load() {
    if (!asked) {
      asked = fetch('/crops/words', { credentials: 'same-origin' })
        .then(function (answer) { return answer.ok ? answer.json() : {}; })
        .catch(function () { return {}; })
        .then(function (found) { words = found; });
    }
    return asked;
  }
  function lately() {
    try { return JSON.parse(localStorage.getItem('crops') || '[]').map(function (one) { return one.key; }); } catch (error) { return []; }
  }

  // The hatch of its family with its code, as on the drawings.
  function make(name, attributes, parent, text) {
    var element = document.createElementNS('http://www.w3.org/2000/svg', name);
    Object.keys(attributes).forEach(function (key) { element.setAttribute(key, attributes[key]); });
    if (text) { element.textContent = text; }
    if (parent) { parent.appendChild(element); }
    return element;
  }
  function emblem(more) {
    var picture = document.createElement('img');
    picture.src = more.picture;
    picture.alt = '';
    picture.width = picture.height = 24;
    picture.loading = 'lazy';
    return picture;
  }
  function pictures(more) {
    var both = document.createDocumentFragment();
    both.append(swatch(more), emblem(more));
    return both;
  }
  function swatch(more) {
    var hatch = more.hatch, id = 'combo-' + hatch[0];
    if (!document.getElementById(id)) {
      var defs = make('defs', {}, make('svg', { width: 0, height: 0, 'aria-hidden': 'true', class: 'combo-hatches' }, document.body));
      var pattern = make('pattern', { id: id, width: hatch[2], height: hatch[2], patternUnits: 'userSpaceOnUse', patternTransform: 'rotate(' + hatch[3] + ')' }, defs);
      make('rect', { width: hatch[2], height: hatch[2], fill: hatch[1] }, pattern);
      make('path', { d: hatch[4], stroke: '#ffffff', 'stroke-opacity': 0.62, 'stroke-width': hatch[5], 'stroke-linecap': 'round', fill: 'none' }, pattern);
    }
    var picture = make('svg', { width: 30, height: 24, 'aria-hidden': 'true', class: 'combo-swatch' });
    make('rect', { width: 30, height: 24, rx: 3, fill: 'url(#' + id + ')' }, picture);
    make('circle', { cx: 15, cy: 12, r: 9, class: 'code-disc' }, picture);
    make('text', { x: 15, y: 16, class: 'code' }, picture, more.code);
    return picture;
  }

  function enhance(select) {
    serial += 1;
    var id = 'combo-' + serial, label = document.querySelector('label[for="' + select.id + '"]');
    select.dataset.combo = id;
    var box = document.createElement('div');
    box.className = 'combo';
    var input = document.createElement('input');
    input.className = 'form-control';
    input.type = 'text';
    input.autocomplete = 'off';
    input.spellcheck = false;
    input.id = id;
    var list = document.createElement('ul');
    list.id = id + '-list';
    var named = label ? label.textContent.trim() : select.name;
    list.setAttribute('aria-label', named);
    input.setAttribute('aria-label', named);
    select.after(box);
    box.append(select, input, list);
    select.classList.add('combo-select');
    select.tabIndex = -1;
    select.setAttribute('aria-hidden', 'true');

    var fits = null;
    function chosen() { return select.options[select.selectedIndex]; }
    function rest() { input.value = chosen() ? chosen().text.trim() : ''; }
    function found(option, text) {
      var more = words && words[option.value];
      return !text || folded(option.text).indexOf(text) >= 0 || Boolean(other(option, text)) || (more && folded(more.also).indexOf(text) >= 0);
    }
    // Another name that it was found by, so that one sees why: Courgette, for zucchini.
    function other(option, text) {
      var more = words && words[option.value];
      return text && more && more.names && folded(option.text).indexOf(text) < 0 ? more.names.find(function (name) { return folded(name).indexOf(text) >= 0; }) : '';
    }
    // What begins so comes first, then what has it in its name, then what is found by something else.
    function rank(option, text) { var at = text ? folded(option.text).trim().indexOf(text) : 0; return at === 0 ? 0 : at > 0 ? 1 : 2; }
    function elsewhere(option, text) { return Number(rank(option, text) === 2); }
    function fill(text, add, head) {
      var options = Array.from(select.options).filter(function (option) { return found(option, text); });
      options.sort(function (a, b) { return rank(a, text) - rank(b, text); });
      function line(option) { var more = words && words[option.value]; var also = other(option, text); add(option.value, option.text.trim() + (also ? ' (' + also + ')' : ''), more && pictures(more), option.selected); }
      function group(title, some) { if (some.length) { head(title); some.forEach(line); } }
      if (select.name === 'crop' && !text) {
        var last = lately(), first = options.filter(function (option) { return last.indexOf(option.value) >= 0; });
        var now = options.filter(function (option) { return fits && fits.indexOf(option.value) >= 0 && first.indexOf(option) < 0; });
        group('Used last', first.sort(function (a, b) { return last.indexOf(a.value) - last.indexOf(b.value); }));
        group('Fits now', now.sort(function (a, b) { return fits.indexOf(a.value) - fits.indexOf(b.value); }).slice(0, 12));
        group(first.length || now.length ? 'All' : 'Crops', options);
      } else if (select.name === 'crop' && fits) {
        options.sort(function (a, b) { return elsewhere(a, text) - elsewhere(b, text) || (fits.indexOf(a.value) < 0) - (fits.indexOf(b.value) < 0); }).forEach(line);
      } else {
        options.forEach(line);
      }
    }
    function take(value) {
      var changed = select.value !== value;
      select.value = value;
      rest();
      if (changed) { select.dispatchEvent(new Event('change', { bubbles: true })); }
    }
    var listbox = Listbox(input, list, fill, take, rest);
    // What fits now, where the page can say it.
    function askFits() {
      var shelf = select.form && select.form.querySelector('[hx-get*="/fits"]');
      if (select.name !== 'crop' || !shelf || fits) { return; }
      fits = [];
      fetch(shelf.getAttribute('hx-get'), { headers: { 'HX-Request': 'true' }, credentials: 'same-origin' })
        .then(function (answer) { return answer.ok ? answer.text() : ''; })
        .then(function (html) {
          fits = Array.from(new DOMParser().parseFromString(html, 'text/html').querySelectorAll('[data-crop]')).map(function (one) { return one.dataset.crop; });
          if (list.hidden || !fits.length || (chosen() && input.value !== chosen().text.trim())) { return; }
          listbox.again();
        })
        .catch(function () { fits = []; });
    }

    input.addEventListener('focus', function () { input.select(); load(); askFits(); });
    input.addEventListener('click', function () { if (list.hidden) { load().then(function () { if (document.activeElement === input) { listbox.open(''); } }); } });
    function search() { listbox.open(folded(input.value.trim())); }
    input.addEventListener('input', function () {
      search();
      // Who types before the names are there sees what they add when they come.
      if (!words) { load().then(function () { if (!list.hidden) { search(); } }); }
    });
    select.addEventListener('change', rest);
    select.addEventListener('focus', function () { input.focus(); });
    rest();
  }

  function all() { document.querySelectorAll('select').forEach(function (select) { if (wanted(select)) { enhance(select); } }); }
  if (document.readyState === 'loading') { document.addEventListener('DOMContentLoaded', all); } else { all(); }
  document.addEventListener('htmx:afterSettle', all);
  document.addEventListener('bed:answered', all);
}());
