// The ribbon's handle: drag it, or move it with the keys [ and ] and, on the slider, with the arrows.
document.addEventListener('alpine:init', function () {
  var DAY = 86400000;

  function text(day) { return day.toISOString().slice(0, 10); }
  function parse(iso) { return new Date(iso + 'T00:00:00Z'); }

  Alpine.data('ribbon', function () {
    return {
      dragging: false,
      waiting: null,

      init: function () {
        var self = this;
        this.onKey = function (event) {
          if (event.target.closest('input, select, textarea, dialog') || event.ctrlKey || event.metaKey || event.altKey) { return; }
          if (event.key === '[') { self.step(-1); }
          if (event.key === ']') { self.step(1); }
        };
        document.addEventListener('keydown', this.onKey);
      },
      destroy: function () { document.removeEventListener('keydown', this.onKey); },

      first: function () { return parse(this.$root.dataset.first); },
      shown: function () { return parse(this.$root.dataset.day); },
      days: function () { return Number(this.$root.dataset.days); },

      dayAt: function (event) {
        var box = this.$refs.picture.getBoundingClientRect();
        var share = Math.min(Math.max((event.clientX - box.left) / box.width, 0), 0.9999);
        return new Date(this.first().getTime() + Math.floor(share * this.days()) * DAY);
      },
      show: function (day) {
        var at = (day.getTime() - this.first().getTime()) / DAY;
        if (at >= 0 && at < this.days()) { this.$refs.handle.setAttribute('x', 100 * at / this.days() + '%'); }
        this.$root.dataset.day = text(day);
        this.$refs.sentence.textContent = day.toLocaleDateString('en', { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });
      },
      go: function (day) {
        var address = new URL(window.location.href);
        if (text(day) === this.$root.dataset.today) { address.searchParams.delete('day'); } else { address.searchParams.set('day', text(day)); }
        address.searchParams.delete('peek');
        address.searchParams.delete('kept');
        address.searchParams.delete('changed');
        window.location.assign(address);
      },
      step: function (days) {
        var self = this;
        var day = new Date(this.shown().getTime() + days * DAY);
        this.show(day);
        window.clearTimeout(this.waiting);
        this.waiting = window.setTimeout(function () { self.go(day); }, 350);
      },

      down: function (event) {
        if (event.target.closest('form') || event.button !== 0) { return; }
        this.dragging = true;
        this.$root.setPointerCapture(event.pointerId);
        this.show(this.dayAt(event));
      },
      move: function (event) { if (this.dragging) { this.show(this.dayAt(event)); } },
      up: function (event) { if (this.dragging) { this.dragging = false; this.go(this.dayAt(event)); } },
      cancel: function () { this.dragging = false; },

      key: function (event) {
        var steps = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -7, ArrowUp: 7, PageDown: -28, PageUp: 28 };
        if (event.key in steps) { event.preventDefault(); this.step(steps[event.key]); }
        if (event.key === 'Home') { event.preventDefault(); this.go(parse(this.$root.dataset.today)); }
      }
    };
  });
});
