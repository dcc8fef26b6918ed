// Choosing and painting squares on the bed sheet, by pointer and by keyboard. What it means is the server's business:
// this file only fills in the form's squares and presses its buttons.
document.addEventListener('alpine:init', function () {
  Alpine.data('bedSheet', function () {
    return {
      tool: 'pencil',
      from: null,
      cursor: null,
      touched: false,
      chosen: null,
      lifted: null,
      inGrid: false,

      init: function () {
        var self = this;
        this.chosen = new Set();
        // A thumb that scrolls must not paint: on a touch screen squares are chosen first.
        if (window.matchMedia('(pointer: coarse)').matches) { this.tool = 'choose'; }
        // What others changed comes in by itself; it must not take the squares out of somebody's hand.
        this.onBefore = function (event) {
          if (event.detail.target.id !== 'sheet') { return; }
          if (event.detail.requestConfig.verb === 'get' && (self.from || self.lifted)) { event.detail.shouldSwap = false; }
          self.inGrid = Boolean(document.activeElement && document.activeElement.closest('.cells'));
        };
        this.onSwap = function (event) {
          if (event.detail.target.id !== 'sheet') { return; }
          var kept = event.detail.requestConfig.verb === 'get' || document.getElementById('sheet').hasAttribute('data-stale');
          self.restore(kept);
          self.announce();
        };
        document.addEventListener('htmx:beforeSwap', this.onBefore);
        document.addEventListener('htmx:afterSwap', this.onSwap);
        this.$root.addEventListener('click', function (event) { self.take(event); });
        this.$root.addEventListener('change', function (event) { if (event.target.id === 'squares') { self.read(event.target.value); } });
      },
      destroy: function () {
        document.removeEventListener('htmx:beforeSwap', this.onBefore);
        document.removeEventListener('htmx:afterSwap', this.onSwap);
      },

      form: function () { return document.getElementById('paint'); },
      cells: function () { return Array.from(this.$root.querySelectorAll('.cell')); },
      cell: function (col, row) { return this.$root.querySelector('.cell[data-col="' + col + '"][data-row="' + row + '"]'); },
      cellAt: function (event) {
        var found = document.elementFromPoint(event.clientX, event.clientY);
        return found && found.closest('.cell');
      },

      choose: function (from, to, added) {
        var a = [Number(from.dataset.col), Number(from.dataset.row)], b = [Number(to.dataset.col), Number(to.dataset.row)];
        var self = this;
        if (!added) { this.chosen.clear(); }
        this.cells().forEach(function (cell) {
          var c = Number(cell.dataset.col), r = Number(cell.dataset.row);
          var inside = c >= Math.min(a[0], b[0]) && c <= Math.max(a[0], b[0]) && r >= Math.min(a[1], b[1]) && r <= Math.max(a[1], b[1]);
          if (inside && !cell.classList.contains('is-kept')) { self.chosen.add(cell.dataset.cell); }
        });
        this.draw();
      },
      draw: function () {
        var chosen = this.chosen;
        this.cells().forEach(function (cell) {
          cell.classList.toggle('is-chosen', chosen.has(cell.dataset.cell));
          cell.setAttribute('aria-selected', chosen.has(cell.dataset.cell) ? 'true' : 'false');
        });
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
      restore: function (kept) {
        var name = this.inGrid || !kept ? this.cursor : null;
        if (!kept) {
          this.chosen.clear();
          var squares = this.form() && this.form().elements.squares;
          if (squares) { squares.value = ''; }
        }
        this.lifted = null;
        this.draw();
        if (name) {
          var cell = this.cells().find(function (one) { return one.dataset.cell === name; });
          if (cell) { this.focus(cell); }
        }
      },
      announce: function () {
        // A live region that is swapped in is not read out; the one that stays is.
        document.getElementById('announce').textContent = document.getElementById('said').textContent;
      },
      focus: function (cell) {
        this.cells().forEach(function (one) { one.setAttribute('tabindex', one === cell ? '0' : '-1'); });
        this.cursor = cell.dataset.cell;
        cell.focus({ preventScroll: true });
      },
      press: function (command) {
        var form = this.form();
        var button = form && document.querySelector('button[form="paint"][value="' + command + '"], #paint button[value="' + command + '"]');
        if (button && !button.disabled) { form.requestSubmit(button); }
      },
      use: function (command) {
        if (!this.form()) { return; }
        if (!this.chosen.size && this.cursor) { this.chosen.add(this.cursor); }
        this.form().elements.squares.value = Array.from(this.chosen).join(' ');
        this.press(command);
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
        var cell = this.cells().find(function (one) { return one.dataset.cell === name; }).getBoundingClientRect();
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
        var form = this.form(), button = document.createElement('button');
        button.name = 'command';
        button.value = command;
        button.hidden = true;
        form.appendChild(button);
        form.requestSubmit(button);
        button.remove();
      },

      down: function (event) {
        var cell = event.target.closest('.cell');
        if (!cell || event.button !== 0 || !this.form()) { return; }
        event.preventDefault();
        this.from = cell;
        this.focus(cell);
        if (this.tool === 'move') { this.lift(cell); } else { this.choose(cell, cell, event.shiftKey); }
      },
      move: function (event) {
        if (!this.from) { return; }
        var cell = this.cellAt(event);
        if (cell && this.lifted) { this.carry(cell); } else if (cell) { this.choose(this.from, cell, event.shiftKey); }
      },
      up: function (event) {
        if (!this.from) { return; }
        this.from = null;
        if (this.lifted) { this.drop(this.cellAt(event) || this.cells()[0]); return; }
        if (this.tool === 'choose' || event.shiftKey) { this.tell(); } else { this.use(this.tool); }
      },
      cancel: function () { this.from = null; this.leave(); this.chosen.clear(); this.draw(); },

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
