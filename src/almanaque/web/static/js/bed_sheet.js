// Choosing and painting squares on the bed sheet, by pointer, finger and keyboard. What it means is the server's business: this file says
// which squares, `bed_strokes.js` draws and sends them.
document.addEventListener('alpine:init', function () {
  Alpine.data('bedSheet', function () {
    var index = null; // all squares by name and by place; kept outside, since what Alpine watches is slow to look up
    return {
      tool: 'pencil',
      from: null,
      cursor: null,
      touched: false,
      chosen: null,
      lifted: null,
      inGrid: false,
      path: null,
      last: null,
      held: null,
      fingers: null,
      asked: null,
      recent: [],

      init: function () {
        var self = this;
        this.chosen = new Set();
        this.fingers = {};
        (window.requestIdleCallback || setTimeout)(function () { self.look(); });
        // A thumb that scrolls must not paint: on a touch screen squares are chosen first.
        if (window.matchMedia('(pointer: coarse)').matches) { this.tool = 'choose'; }
        try { this.recent = JSON.parse(localStorage.getItem('crops') || '[]').slice(0, 5); } catch (error) { this.recent = []; }
        // What others changed comes in by itself; it must not take the squares out of somebody's hand.
        this.onBefore = function (event) {
          if (!event.detail.target || event.detail.target.id !== 'sheet') { return; }
          var news = event.detail.requestConfig && event.detail.requestConfig.verb === 'get';
          // What was asked of an earlier sheet than this one tells as news what this hand did since.
          var late = news && new URL(event.detail.requestConfig.path, location).searchParams.get('version') !== BedStrokes.version();
          if (late || news && (self.from || self.lifted || self.asked || BedStrokes.busy())) { event.detail.shouldSwap = false; }
          self.inGrid = Boolean(document.activeElement && document.activeElement.closest('.cells'));
          var taken = event.detail.shouldSwap && BedStrokes.take(event.detail.serverResponse);
          if (!taken) { return; }
          event.detail.shouldSwap = false;
          taken.then(function (cells) { self.onAnswer({ detail: { refused: [], cells: cells, news: news } }); });
        };
        this.onAsk = function (event) {
          if (event.detail.target && event.detail.target.id === 'sheet') { event.detail.headers['X-Known'] = BedStrokes.known(); }
        };
        this.onAnswer = function (event) {
          var kept = event.detail.news || Boolean(self.from) || BedStrokes.busy() || document.getElementById('sheet').hasAttribute('data-stale');
          self.restore(kept, event.detail.cells);
          self.announce();
          var refused = event.detail.refused;
          if (refused.length && !self.form().elements.squares.value) { self.form().elements.squares.value = refused.join(' '); self.read(refused.join(' ')); }
          BedStrokes.draw();
        };
        this.onCommand = function (event) { self.command(event.detail); };
        document.addEventListener('bed:command', this.onCommand);
        document.addEventListener('bed:answered', this.onAnswer);
        document.addEventListener('htmx:beforeSwap', this.onBefore);
        document.addEventListener('htmx:configRequest', this.onAsk);
        this.$root.addEventListener('click', function (event) { self.take(event); });
        this.$root.addEventListener('change', function (event) { if (event.target.id === 'squares') { self.read(event.target.value); } });
      },
      destroy: function () {
        document.removeEventListener('htmx:beforeSwap', this.onBefore);
        document.removeEventListener('htmx:configRequest', this.onAsk);
        document.removeEventListener('bed:command', this.onCommand);
        document.removeEventListener('bed:answered', this.onAnswer);
      },

      form: function () { return document.getElementById('paint'); },
      look: function () {
        var sheet = document.getElementById('sheet');
        if (!index || index.sheet !== sheet) { index = { sheet: sheet, named: {}, placed: {} }; this.enter(this.$root.querySelectorAll('.cell')); }
        return index;
      },
      // Squares that are drawn anew take the place of the old ones.
      enter: function (cells) {
        var found = this.look();
        cells.forEach(function (cell) {
          found.named[cell.dataset.cell] = cell;
          found.placed[cell.dataset.col + ' ' + cell.dataset.row] = cell;
        });
      },
      cells: function () { return Object.values(this.look().named); },
      cell: function (col, row) { return this.look().placed[col + ' ' + row]; },
      cellAt: function (event) {
        var found = document.elementFromPoint(event.clientX, event.clientY);
        return found && found.closest('.cell');
      },

      choose: function (from, to, added) {
        var a = [Number(from.dataset.col), Number(from.dataset.row)], b = [Number(to.dataset.col), Number(to.dataset.row)];
        var before = this.chosen, now = added ? new Set(before) : new Set();
        for (var c = Math.min(a[0], b[0]); c <= Math.max(a[0], b[0]); c += 1) {
          for (var r = Math.min(a[1], b[1]); r <= Math.max(a[1], b[1]); r += 1) {
            var cell = this.cell(c, r);
            if (cell && !cell.classList.contains('is-kept')) { now.add(cell.dataset.cell); }
          }
        }
        this.chosen = now;
        this.mark(before);
      },
      // Only what changed is drawn: a bed may have a thousand squares.
      mark: function (before) {
        var named = this.look().named, now = this.chosen;
        before.forEach(function (name) { if (!now.has(name) && named[name]) { named[name].classList.remove('is-chosen'); named[name].setAttribute('aria-selected', 'false'); } });
        now.forEach(function (name) { if (!before.has(name) && named[name]) { named[name].classList.add('is-chosen'); named[name].setAttribute('aria-selected', 'true'); } });
      },
      draw: function () {
        var chosen = this.chosen;
        this.cells().forEach(function (cell) {
          var is = chosen.has(cell.dataset.cell);
          if (cell.classList.contains('is-chosen') !== is) { cell.classList.toggle('is-chosen', is); }
          if ((cell.getAttribute('aria-selected') === 'true') !== is) { cell.setAttribute('aria-selected', is ? 'true' : 'false'); }
        });
      },
      // All squares around this one that hold the same.
      fill: function (cell) {
        var found = new Set(), open = [cell], self = this, same = cell.dataset.taken || '';
        while (open.length) {
          var one = open.pop();
          if (found.has(one.dataset.cell) || one.classList.contains('is-kept') || (one.dataset.taken || '') !== same) { continue; }
          found.add(one.dataset.cell);
          [[1, 0], [-1, 0], [0, 1], [0, -1]].forEach(function (by) {
            var next = self.cell(Number(one.dataset.col) + by[0], Number(one.dataset.row) + by[1]);
            if (next) { open.push(next); }
          });
        }
        return found;
      },
      tell: function () {
        var squares = this.form() && this.form().elements.squares;
        if (!squares) { return; }
        squares.value = Array.from(this.chosen).join(' ');
        squares.dispatchEvent(new Event('change', { bubbles: true }));
      },
      read: function (value) {
        // Typed squares are marked when each is named alone; blocks are left to the server.
        this.chosen = new Set(value.toUpperCase().split(/[\s,;]+/).filter(function (name) { return /^[A-Z]{1,2}\d+$/.test(name); }));
        this.draw();
      },
      restore: function (kept, cells) {
        var name = this.inGrid || !kept ? this.cursor : null, before = this.chosen, chosen = kept ? before : new Set();
        this.enter(cells);
        this.chosen = chosen;
        this.lifted = null;
        this.mark(before);
        var stop = this.look().named[this.cursor] ? this.cursor : null; // one square of the grid is a stop of the Tab key
        cells.forEach(function (cell) {
          if (stop) { cell.setAttribute('tabindex', cell.dataset.cell === stop ? '0' : '-1'); }
          if (chosen.has(cell.dataset.cell)) { cell.classList.add('is-chosen'); cell.setAttribute('aria-selected', 'true'); }
        });
        var cell = name && this.look().named[name];
        if (cell && cell !== document.activeElement) { this.focus(cell); }
      },
      announce: function () {
        // A live region that is swapped in is not read out; the one that stays is.
        document.getElementById('announce').textContent = document.getElementById('said').textContent;
      },
      focus: function (cell) {
        var last = this.$root.querySelector('.cell[tabindex="0"]');
        if (last && last !== cell) { last.setAttribute('tabindex', '-1'); }
        cell.setAttribute('tabindex', '0');
        this.cursor = cell.dataset.cell;
        cell.focus({ preventScroll: true });
      },
      press: function (command) {
        var form = this.form();
        var button = form && document.querySelector('button[form="paint"][value="' + command + '"], #paint button[value="' + command + '"]');
        if (button && !button.disabled) { this.command(command); }
      },
      use: function (command) {
        if (!this.form()) { return; }
        if (!this.chosen.size && this.cursor) { this.chosen.add(this.cursor); }
        this.command(command);
      },
      // One command of the form, by a button, a key or a stroke. What stands in the squares already is asked about first.
      command: function (command) {
        var form = this.form(), typed = form.elements.squares.value.trim();
        if (!form.reportValidity()) { return; }
        // Names and phrases such as `row 3`, which stay whole.
        var squares = this.chosen.size ? Array.from(this.chosen) : typed ? typed.toUpperCase().split(/\s*[,;]\s*|\s+(?=[A-Z]{1,2}\d)/) : [];
        if ((command === 'pencil' || command === 'ink') && !form.elements.with_others.checked) {
          var named = this.look().named, same = form.elements.crop.options[form.elements.crop.selectedIndex].text.toLowerCase();
          var over = squares.filter(function (name) { return named[name] && named[name].dataset.taken && named[name].dataset.taken.toLowerCase().indexOf(same) !== 0; });
          if (over.length) { this.ask(command, squares, over); return; }
        }
        this.give(command, squares);
      },
      give: function (command, squares) {
        this.inGrid = Boolean(document.activeElement && document.activeElement.closest('.cells'));
        if (command === 'pencil' || command === 'ink') { this.used(); }
        BedStrokes.add(command, squares, { by: this.form().elements.by.value });
        var before = this.chosen;
        this.chosen = new Set();
        this.mark(before);
        this.form().elements.squares.value = '';
      },
      // The crops used last, nearest the thumb.
      used: function () {
        var select = this.form().elements.crop, now = { key: select.value, name: select.options[select.selectedIndex].text };
        this.recent = [now].concat(this.recent.filter(function (one) { return one.key !== now.key; })).slice(0, 5);
        try { localStorage.setItem('crops', JSON.stringify(this.recent)); } catch (error) { /* a browser that keeps nothing */ }
      },
      again: function (event) {
        var button = event.target.closest('[data-again]');
        if (!button || !this.form()) { return; }
        this.form().elements.crop.value = button.dataset.again;
        this.form().elements.crop.dispatchEvent(new Event('change', { bubbles: true }));
        if (this.tool === 'choose' || this.tool === 'rub') { this.tool = 'pencil'; }
      },

      ask: function (command, squares, over) {
        var named = this.look().named, kinds = Array.from(new Set(over.map(function (name) { return named[name].dataset.taken; })));
        var dialog = document.getElementById('over');
        this.asked = { command: command, squares: squares, over: over };
        dialog.querySelector('p').textContent = (over.length === 1 ? over[0] + ' holds ' : over.length + ' of these squares hold ') + kinds.slice(0, 3).join(', ') + '.';
        dialog.querySelector('[value=free]').hidden = over.length === squares.length;
        if (!dialog.open) { dialog.show(); }
        dialog.querySelector('[value=over]').focus({ preventScroll: true });
      },
      answer: function (event) {
        var button = event.target.closest('#over button'), asked = this.asked;
        if (!button || !asked) { return; }
        event.preventDefault();
        this.asked = null;
        document.getElementById('over').close();
        if (button.value === 'over') { this.give(asked.command, asked.squares); }
        if (button.value === 'free') { this.give(asked.command, asked.squares.filter(function (name) { return asked.over.indexOf(name) < 0; })); }
        if (button.value === 'leave') { this.chosen.clear(); this.draw(); }
        var cell = this.cursor && this.look().named[this.cursor];
        if (cell) { this.focus(cell); }
      },

      // Moving: the squares under the hand travel with it as a shade, and the server moves the whole plan by as many squares.
      lift: function (cell) { this.lifted = { col: Number(cell.dataset.col), row: Number(cell.dataset.row), name: cell.dataset.cell }; },
      carry: function (cell) {
        var by = this.offset(cell), planting = this.under(this.lifted.name);
        if (planting) { planting.setAttribute('transform', 'translate(' + by[0] * this.pitch('width') + ' ' + by[1] * this.pitch('height') + ')'); }
      },
      offset: function (cell) { return [Number(cell.dataset.col) - this.lifted.col, Number(cell.dataset.row) - this.lifted.row]; },
      pitch: function (side) { return Number(this.$root.querySelector('.cell').getAttribute(side)); },
      under: function (name) {
        // The plan whose drawing lies under a square: the one with a box or plant within it.
        var cell = this.look().named[name].getBoundingClientRect();
        return Array.from(this.$root.querySelectorAll('.planting.is-ghost, .planting.is-pencil')).find(function (planting) {
          return Array.from(planting.querySelectorAll('.pencil-box, .plant')).some(function (part) {
            var box = part.getBoundingClientRect(), x = box.x + box.width / 2, y = box.y + box.height / 2;
            return x >= cell.left && x <= cell.right && y >= cell.top && y <= cell.bottom;
          });
        });
      },
      drop: function (cell) {
        var by = this.offset(cell), form = this.form();
        form.elements.squares.value = this.lifted.name;
        form.elements.by.value = by[0] + ',' + by[1];
        this.cursor = cell.dataset.cell;
        if (by[0] || by[1]) { this.send('move'); } else { this.leave(); }
      },
      leave: function () {
        this.lifted = null;
        this.$root.querySelectorAll('.planting[transform]').forEach(function (planting) { planting.removeAttribute('transform'); });
      },
      send: function (command) {
        var squares = this.form().elements.squares.value.split(' ');
        this.give(command, squares);
        this.form().elements.by.value = '';
      },

      // By pointer a drag is a block, with Alt each square passed over; a double press fills what is alike around.
      down: function (event) {
        if (event.pointerType === 'touch' && event.target.closest('.bed-picture')) {
          this.fingers[event.pointerId] = event.clientY;
          if (Object.keys(this.fingers).length > 1) { this.cancel(); return; }
        }
        var cell = event.target.closest('.cell');
        if (!cell || event.button !== 0 || !this.form()) { return; }
        if (event.pointerType === 'touch' && this.tool === 'choose') { this.held = { cell: cell, at: [event.clientX, event.clientY], long: null }; this.wait(); return; }
        event.preventDefault();
        this.from = cell;
        this.path = event.pointerType === 'touch' || event.altKey ? new Set() : null;
        this.focus(cell);
        if (this.tool === 'move') { this.lift(cell); return; }
        if (event.detail === 2) { var before = this.chosen; this.chosen = this.fill(cell); this.mark(before); return; }
        if (this.path) { this.pass(cell); } else { this.choose(cell, cell, event.shiftKey); }
        if (event.pointerType === 'touch') { this.held = { cell: cell, at: [event.clientX, event.clientY], long: null }; this.wait(); }
      },
      // A finger held still chooses the square under it, in any mode.
      wait: function () {
        var self = this, held = this.held;
        held.long = setTimeout(function () {
          if (self.held !== held) { return; }
          self.tool = 'choose';
          self.from = null;
          self.path = null;
          var before = new Set(self.chosen);
          self.chosen = self.fill(held.cell);
          self.mark(before);
          self.held = null;
          self.tell();
        }, 550);
      },
      // Every square between the last one and this, since a quick hand is heard of only now and then.
      pass: function (cell) {
        var before = new Set(this.chosen), to = [Number(cell.dataset.col), Number(cell.dataset.row)], from = this.path.size ? this.last : to;
        if (!this.path.size) { this.chosen = new Set(); }
        var now = new Set(this.chosen), steps = Math.max(Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1]), 1);
        for (var n = 0; n <= steps; n += 1) {
          var one = this.cell(Math.round(from[0] + (to[0] - from[0]) * n / steps), Math.round(from[1] + (to[1] - from[1]) * n / steps));
          if (one && !one.classList.contains('is-kept')) { now.add(one.dataset.cell); this.path.add(one.dataset.cell); }
        }
        this.last = to;
        this.chosen = now;
        this.mark(before);
      },
      move: function (event) {
        if (event.pointerType === 'touch' && this.fingers[event.pointerId] !== undefined) {
          var two = Object.keys(this.fingers).length > 1, by = this.fingers[event.pointerId] - event.clientY;
          this.fingers[event.pointerId] = event.clientY;
          if (two) { window.scrollBy(0, by / 2); return; }
        }
        if (this.held && Math.hypot(event.clientX - this.held.at[0], event.clientY - this.held.at[1]) > 8) { clearTimeout(this.held.long); if (this.tool === 'choose') { this.held = null; } else { this.held.long = null; } }
        if (!this.from) { return; }
        var cell = this.cellAt(event);
        if (cell && this.lifted) { this.carry(cell); } else if (cell && this.path) { this.pass(cell); } else if (cell && event.detail !== 2) { this.choose(this.from, cell, event.shiftKey); }
      },
      up: function (event) {
        delete this.fingers[event.pointerId];
        var held = this.held;
        this.held = null;
        if (held) { clearTimeout(held.long); }
        if (held && this.tool === 'choose' && event.pointerType === 'touch') { this.tap(held.cell); return; }
        if (!this.from) { return; }
        this.from = null;
        this.path = null;
        if (this.lifted) { this.drop(this.cellAt(event) || this.cells()[0]); return; }
        if (this.tool === 'choose' || event.shiftKey) { this.tell(); } else { this.use(this.tool); }
      },
      // Taps add up: another one takes the square out again.
      tap: function (cell) {
        if (cell.classList.contains('is-kept')) { return; }
        var before = new Set(this.chosen);
        this.chosen = new Set(before);
        if (!this.chosen.delete(cell.dataset.cell)) { this.chosen.add(cell.dataset.cell); }
        this.mark(before);
        this.focus(cell);
        this.tell();
      },
      cancel: function (event) {
        if (event && event.pointerId !== undefined) { delete this.fingers[event.pointerId]; }
        if (this.held) { clearTimeout(this.held.long); this.held = null; }
        this.from = null;
        this.path = null;
        this.leave();
        if (this.tool !== 'choose') { this.chosen.clear(); this.draw(); }
      },

      key: function (event) {
        var cell = event.target.closest('.cell');
        if (!cell || event.ctrlKey || event.metaKey || event.altKey) { return; }
        var moves = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
        var commands = { p: 'pencil', i: 'ink', x: 'rub' };
        if (event.key in moves) {
          event.preventDefault();
          var next = this.cell(Number(cell.dataset.col) + moves[event.key][0], Number(cell.dataset.row) + moves[event.key][1]);
          if (!next) { return; }
          if (this.lifted) { this.carry(next); } else if (event.shiftKey) {
            this.anchor = this.anchor || cell;
            this.choose(this.anchor, next, false);
            this.tell();
          } else { this.anchor = null; }
          this.focus(next);
        } else if (event.key === ' ' || event.key === 'Enter') {
          event.preventDefault();
          if (this.lifted) { this.drop(cell); return; }
          if (cell.classList.contains('is-kept')) { return; }
          if (!this.chosen.delete(cell.dataset.cell)) { this.chosen.add(cell.dataset.cell); }
          this.draw();
          this.tell();
        } else if (event.key === 'Escape') {
          this.leave();
          this.chosen.clear();
          this.draw();
          this.tell();
        } else if (event.key === 'm') {
          this.lift(cell);
          document.getElementById('announce').textContent = 'Taken up at ' + cell.dataset.cell + '. Arrows move it, Enter puts it down.';
        } else if (event.key === 'u' || event.key === 'r') {
          this.cursor = cell.dataset.cell;
          this.press(event.key === 'u' ? 'undo' : 'redo');
        } else if (event.key in commands) {
          this.cursor = cell.dataset.cell;
          this.use(commands[event.key]);
        }
      },

      take: function (event) {
        // A crop from the shelf, or a change that the preview proposes: put it into the form.
        var shelf = event.target.closest('[data-crop]');
        if (shelf && this.form()) {
          this.form().elements.crop.value = shelf.dataset.crop;
          this.form().elements.crop.dispatchEvent(new Event('change', { bubbles: true }));
          return;
        }
        var fix = event.target.closest('[data-start]');
        if (!fix || !this.form()) { return; }
        var fields = this.form().elements;
        fields.method.value = fix.dataset.method;
        fields.start_on.value = fix.dataset.start;
        fields.start_on.dispatchEvent(new Event('change', { bubbles: true }));
      }
    };
  });
});
