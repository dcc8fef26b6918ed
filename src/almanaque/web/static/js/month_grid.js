// The school year as months of days: drag over days to make a break, click one for a half day or a feast or to change what is there.
// By touch a finger held still takes hold, so that the page scrolls else. With keys: arrows, Shift to widen, Enter, Escape.
(function () {
  var HOLD_MS = 400;
  var from = null, to = null, dragging = false, timer = null;

  function grid() { return document.querySelector('[data-months]'); }
  function sheet() { return document.getElementById('day-sheet'); }
  function days() { return Array.prototype.slice.call(grid().querySelectorAll('button[data-day]')); }
  function named(day) { return grid().querySelector('button[data-day="' + day + '"]'); }
  function dayAt(x, y) {
    var found = document.elementFromPoint(x, y);
    var cell = found && found.closest('.month td');
    var button = cell && cell.querySelector('button[data-day]');
    return button ? button.dataset.day : null;
  }
  function span() { return from <= to ? [from, to] : [to, from]; }

  function moved(day, by) {
    var time = new Date(day + 'T00:00:00Z');
    time.setUTCDate(time.getUTCDate() + by);
    return time.toISOString().slice(0, 10);
  }

  function show() {
    var held = span();
    days().forEach(function (button) {
      button.parentNode.classList.toggle('is-held', from !== null && button.dataset.day >= held[0] && button.dataset.day <= held[1]);
    });
  }

  function words(day) {
    return new Date(day + 'T00:00:00Z').toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short', timeZone: 'UTC' });
  }

  function says() {
    var held = span();
    var lost = days().filter(function (button) {
      var state = button.parentNode.classList;
      return button.dataset.day >= held[0] && button.dataset.day <= held[1] && (state.contains('is-school') || state.contains('is-half'));
    }).length;
    var which = held[0] === held[1] ? words(held[0]) : words(held[0]) + ' to ' + words(held[1]);
    return which + ': ' + lost + (lost === 1 ? ' school day' : ' school days');
  }

  function kindChosen() {
    var chosen = sheet().querySelector('input[name="kind"]:checked');
    sheet().querySelector('[data-until]').hidden = !chosen || chosen.value !== 'half_day';
  }

  function open(rowId) {
    var form = sheet(), held = span(), row = rowId ? JSON.parse(form.dataset.rows)[rowId] : null;
    var values = row || { kind: held[0] === held[1] ? 'half_day' : 'closure', name: '', starts: held[0], ends: held[1], until: '12:00' };
    form.querySelector('#day-sheet-says').textContent = row ? row.name : says();
    form.elements.id.value = row ? rowId : form.elements.id.dataset.new;
    form.elements.name.value = values.name;
    form.elements.starts.value = values.starts;
    form.elements.ends.value = values.ends;
    form.elements.until.value = values.until || '12:00';
    form.querySelectorAll('input[name="kind"]').forEach(function (one) {
      one.checked = one.value === values.kind;
      one.disabled = Boolean(row) && !one.checked;
    });
    form.querySelector('[data-delete]').hidden = !row;
    kindChosen();
    form.hidden = false;
    place(form, named(held[1]));
    form.elements.name.focus({ preventScroll: true });
  }

  function place(form, button) {
    var box = button.closest('.month-box');
    box.appendChild(form);
    form.classList.toggle('is-right', box.getBoundingClientRect().left + form.offsetWidth > grid().getBoundingClientRect().right);
    form.scrollIntoView({ block: 'nearest' });
  }

  function close(back) {
    var day = to;
    sheet().hidden = true;
    grid().parentNode.appendChild(sheet());
    from = to = null;
    show();
    if (back && day && named(day)) { named(day).focus(); }
  }

  function rove(day, widen) {
    var button = named(day);
    if (!button) { return; }
    days().forEach(function (one) { one.tabIndex = -1; });
    button.tabIndex = 0;
    button.focus();
    if (widen) { to = day; show(); } else if (from !== null && sheet().hidden) { from = to = null; show(); }
  }

  document.addEventListener('pointerdown', function (event) {
    var button = grid() && event.target.closest('[data-months] button[data-day]');
    if (!button) { return; }
    var start = function () {
      from = to = button.dataset.day;
      dragging = true;
      grid().classList.add('is-held');
      show();
    };
    if (event.pointerType === 'touch') {
      timer = setTimeout(start, HOLD_MS);
    } else {
      event.preventDefault();
      start();
    }
  });

  document.addEventListener('pointermove', function (event) {
    if (!dragging) {
      if (timer && event.pointerType === 'touch' && (Math.abs(event.movementX) > 4 || Math.abs(event.movementY) > 4)) { clearTimeout(timer); timer = null; }
      return;
    }
    var day = dayAt(event.clientX, event.clientY);
    if (day && day !== to) { to = day; show(); }
  });

  document.addEventListener('touchmove', function (event) { if (dragging) { event.preventDefault(); } }, { passive: false });

  document.addEventListener('pointerup', function (event) {
    clearTimeout(timer);
    timer = null;
    if (!dragging) { return; }
    dragging = false;
    grid().classList.remove('is-held');
    var button = named(to);
    rove(to, true);
    open(from === to && button ? button.dataset.row : '');
    event.preventDefault();
  });

  document.addEventListener('pointercancel', function () {
    clearTimeout(timer);
    timer = null;
    if (dragging) { dragging = false; close(false); }
  });

  document.addEventListener('click', function (event) {
    var button = grid() && event.target.closest('[data-months] button[data-day]');
    if (event.target.closest('#day-sheet [data-close]')) { close(true); }
    if (button && event.pointerType === 'touch' && sheet().hidden) { // a tap
      from = to = button.dataset.day;
      show();
      open(button.dataset.row);
    }
  });

  document.addEventListener('change', function (event) { if (event.target.closest('#day-sheet .kinds')) { kindChosen(); } });

  document.addEventListener('keydown', function (event) {
    if (event.key === 'Escape' && sheet() && !sheet().hidden) { close(true); return; }
    var button = grid() && event.target.closest && event.target.closest('[data-months] button[data-day]');
    if (!button) { return; }
    var by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 }[event.key];
    if (by) {
      event.preventDefault();
      if (event.shiftKey && from === null) { from = to = button.dataset.day; }
      rove(moved(button.dataset.day, by), event.shiftKey);
    } else if (event.key === 'Enter' || event.key === ' ') {
      event.preventDefault();
      if (from === null) { from = to = button.dataset.day; show(); }
      open(from === to ? button.dataset.row : '');
    }
  });

  function begin() {
    if (!grid()) { return; }
    var first = grid().querySelector('td.is-school button, td button');
    if (first && !grid().querySelector('button[tabindex="0"]')) { first.tabIndex = 0; }
  }
  document.addEventListener('DOMContentLoaded', begin);
  document.addEventListener('htmx:afterSettle', function () { from = to = null; begin(); });
  begin();
}());
