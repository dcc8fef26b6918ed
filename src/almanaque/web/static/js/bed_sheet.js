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

      init: function () {
        var self = this;
        this.chosen = new Set();
        // A thumb that scrolls must not paint: on a touch screen squares are chosen first.
        if (window.matchMedia('(pointer: coarse)').matches) { this.tool = 'choose'; }
        this.onSwap = function (event) { if (event.detail.target.id === 'sheet') { self.restore(); self.announce(); } };
        document.addEventListener('htmx:afterSwap', this.onSwap);
        this.$root.addEventListener('click', function (event) { self.take(event); });
        this.$root.addEventListener('change', function (event) { if (event.target.id === 'squares') { self.read(event.target.value); } });
      },
      destroy: function () { document.removeEventListener('htmx:afterSwap', this.onSwap); },

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
      restore: function () {
        var name = this.cursor;
        this.chosen.clear();
        var squares = this.form() && this.form().elements.squares;
        if (squares) { squares.value = ''; }
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

      down: function (event) {
        var cell = event.target.closest('.cell');
        if (!cell || event.button !== 0 || !this.form()) { return; }
        event.preventDefault();
        this.from = cell;
        this.focus(cell);
        this.choose(cell, cell, event.shiftKey);
      },
      move: function (event) {
        if (!this.from) { return; }
        var cell = this.cellAt(event);
        if (cell) { this.choose(this.from, cell, event.shiftKey); }
      },
      up: function (event) {
        if (!this.from) { return; }
        this.from = null;
        if (this.tool === 'choose' || event.shiftKey) { this.tell(); } else { this.use(this.tool); }
      },
      cancel: function () { this.from = null; this.chosen.clear(); this.draw(); },

      key: function (event) {
        var cell = event.target.closest('.cell');
        if (!cell || event.ctrlKey || event.metaKey || event.altKey) { return; }
        var moves = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
        var commands = { p: 'pencil', i: 'ink', x: 'rub', u: 'undo' };
        if (event.key in moves) {
          event.preventDefault();
          var next = this.cell(Number(cell.dataset.col) + moves[event.key][0], Number(cell.dataset.row) + moves[event.key][1]);
          if (!next) { return; }
          if (event.shiftKey) {
            this.anchor = this.anchor || cell;
            this.choose(this.anchor, next, false);
            this.tell();
          } else { this.anchor = null; }
          this.focus(next);
        } else if (event.key === ' ' || event.key === 'Enter') {
          event.preventDefault();
          if (cell.classList.contains('is-kept')) { return; }
          if (!this.chosen.delete(cell.dataset.cell)) { this.chosen.add(cell.dataset.cell); }
          this.draw();
          this.tell();
        } else if (event.key === 'Escape') {
          this.chosen.clear();
          this.draw();
          this.tell();
        } else if (event.key === 'u') {
          this.cursor = cell.dataset.cell;
          this.press('undo');
        } else if (event.key in commands) {
          this.cursor = cell.dataset.cell;
          this.use(commands[event.key]);
        }
      },

      take: function (event) {
        // A change that the preview proposes: put it into the form.
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
