// A list of crops or beds that one searches by typing any part of a name: the combobox of the ARIA practices over a plain select, which
// stays in its form and is all there is without script.
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
    list.className = 'combo-list';
    list.hidden = true;
    list.setAttribute('role', 'listbox');
    var named = label ? label.textContent.trim() : select.name;
    list.setAttribute('aria-label', named);
    [['role', 'combobox'], ['aria-autocomplete', 'list'], ['aria-expanded', 'false'], ['aria-controls', list.id], ['aria-label', named]].forEach(function (pair) { input.setAttribute(pair[0], pair[1]); });
    select.after(box);
    box.append(select, input, list);
    select.classList.add('combo-select');
    select.tabIndex = -1;
    select.setAttribute('aria-hidden', 'true');

    var active = -1, shown = [], fits = null;
    function chosen() { return select.options[select.selectedIndex]; }
    function rest() { input.value = chosen() ? chosen().text.trim() : ''; }
    function close(back) {
      list.hidden = true;
      active = -1;
      input.setAttribute('aria-expanded', 'false');
      input.removeAttribute('aria-activedescendant');
      if (back) { rest(); }
    }
    function found(option, text) {
      var more = words && words[option.value];
      return !text || folded(option.text).indexOf(text) >= 0 || (more && folded(more.also).indexOf(text) >= 0);
    }
    function group(title, options) {
      if (!options.length) { return; }
      var head = document.createElement('li');
      head.className = 'combo-head';
      head.setAttribute('role', 'presentation');
      head.textContent = title;
      list.appendChild(head);
      options.forEach(add);
    }
    function add(option) {
      var line = document.createElement('li'), more = words && words[option.value];
      line.id = id + '-' + shown.length;
      line.setAttribute('role', 'option');
      line.setAttribute('aria-selected', String(option.selected));
      line.dataset.value = option.value;
      if (more) {
        line.appendChild(swatch(more));
      }
      line.append(option.text.trim());
      list.appendChild(line);
      shown.push(line);
    }
    function open(text) {
      var options = Array.from(select.options).filter(function (option) { return found(option, text); });
      list.replaceChildren();
      shown = [];
      if (select.name === 'crop' && !text) {
        var last = lately(), first = options.filter(function (option) { return last.indexOf(option.value) >= 0; });
        var now = options.filter(function (option) { return fits && fits.indexOf(option.value) >= 0 && first.indexOf(option) < 0; });
        group('Used last', first.sort(function (a, b) { return last.indexOf(a.value) - last.indexOf(b.value); }));
        group('Fits now', now.sort(function (a, b) { return fits.indexOf(a.value) - fits.indexOf(b.value); }).slice(0, 12));
        group(first.length || now.length ? 'All' : 'Crops', options);
      } else if (select.name === 'crop' && fits) {
        options.sort(function (a, b) { return (fits.indexOf(a.value) < 0) - (fits.indexOf(b.value) < 0); }).forEach(add);
      } else {
        options.forEach(add);
      }
      if (!shown.length) {
        var none = document.createElement('li');
        none.className = 'combo-head';
        none.setAttribute('role', 'presentation');
        none.textContent = 'Nothing of that name';
        list.appendChild(none);
      }
      list.hidden = false;
      active = text && shown.length ? 0 : -1;
      input.setAttribute('aria-expanded', 'true');
      point();
    }
    function point() {
      shown.forEach(function (line, at) { line.classList.toggle('is-active', at === active); });
      if (active < 0) { input.removeAttribute('aria-activedescendant'); return; }
      input.setAttribute('aria-activedescendant', shown[active].id);
      shown[active].scrollIntoView({ block: 'nearest' });
    }
    function take(value) {
      var changed = select.value !== value;
      select.value = value;
      close(true);
      if (changed) { select.dispatchEvent(new Event('change', { bubbles: true })); }
    }
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
          var value = active >= 0 ? shown[active].dataset.value : null;
          open('');
          active = value === null ? -1 : shown.findIndex(function (line) { return line.dataset.value === value; });
          point();
        })
        .catch(function () { fits = []; });
    }

    input.addEventListener('focus', function () { input.select(); load(); askFits(); });
    input.addEventListener('click', function () { if (list.hidden) { load().then(function () { if (document.activeElement === input) { open(''); } }); } });
    input.addEventListener('input', function () { open(folded(input.value.trim())); });
    input.addEventListener('keydown', function (event) {
      if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
        event.preventDefault();
        if (list.hidden) { open(''); }
        active = Math.max(0, Math.min(shown.length - 1, active + (event.key === 'ArrowDown' ? 1 : -1)));
        point();
      } else if (event.key === 'Enter' && !list.hidden) {
        event.preventDefault();
        if (active >= 0) { take(shown[active].dataset.value); } else { close(true); }
      } else if (event.key === 'Escape' && !list.hidden) {
        event.preventDefault();
        event.stopPropagation();
        close(true);
      } else if (event.key === 'Tab' && !list.hidden) {
        if (active >= 0) { take(shown[active].dataset.value); } else { close(true); }
      }
    });
    input.addEventListener('blur', function () { if (!list.hidden) { close(true); } else { rest(); } });
    list.addEventListener('pointerdown', function (event) { event.preventDefault(); });
    list.addEventListener('click', function (event) {
      var line = event.target.closest('[role=option]');
      if (line) { take(line.dataset.value); }
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
