// Moving, turning and resizing what stands on the map, by pointer and by keys. The server checks and writes; this file only
// says where a thing was put, in millimetres.
document.addEventListener('alpine:init', function () {
  Alpine.data('siteMap', function () {
    return {
      snap: 0,
      nudge: 0,
      scale: 1,
      waiting: null,

      init: function () {
        var self = this;
        this.snap = Number(this.$root.dataset.snap);
        this.nudge = Number(this.$root.dataset.nudge);
        this.scale = Number(this.$root.dataset.scale);
        this.arm();
        this.onSwap = function (event) {
          if (event.detail.target.id !== 'map-edit') { return; }
          self.arm();
          var said = document.getElementById('map-said');
          document.getElementById('announce').textContent = said ? said.textContent : '';
          var thing = self.thing(document.getElementById('map-edit').dataset.chosen);
          if (thing) { thing.focus({ preventScroll: true }); }
        };
        // A move that is refused is taken back on the drawing too.
        this.onError = function (event) {
          // Not by .id: the form has a field of that name.
          if (!event.detail.elt || event.detail.elt.getAttribute('id') !== 'place') { return; }
          document.querySelectorAll('.thing').forEach(function (thing) { if (thing.wasAt) { self.write(thing, thing.wasAt); thing.wasAt = null; } });
          self.redraw();
        };
        document.addEventListener('htmx:afterSwap', this.onSwap);
        document.addEventListener('htmx:responseError', this.onError);
      },
      destroy: function () {
        document.removeEventListener('htmx:afterSwap', this.onSwap);
        document.removeEventListener('htmx:responseError', this.onError);
        window.interact('.thing').unset();
      },

      thing: function (id) { return Array.from(document.querySelectorAll('.thing')).find(function (one) { return one.dataset.id === id; }); },
      read: function (thing) {
        var d = thing.dataset;
        return { x: Number(d.x), y: Number(d.y), length: Number(d.length), width: Number(d.width), turn: Number(d.turn) };
      },
      write: function (thing, place) { ['x', 'y', 'length', 'width', 'turn'].forEach(function (name) { thing.dataset[name] = place[name]; }); },
      // Client pixels to millimetres on the ground.
      perPixel: function () {
        var svg = this.$root.querySelector('.map-picture');
        return svg.viewBox.baseVal.width / svg.getBoundingClientRect().width / this.scale;
      },
      snapped: function (value) {
        var box = document.getElementById('snap');
        return box && box.checked ? Math.round(value / this.snap) * this.snap : Math.round(value / this.nudge) * this.nudge;
      },
      show: function (thing, place) {
        var s = this.scale, turn = place.turn ? ' rotate(' + place.turn + ' ' + place.length / 2 * s + ' ' + place.width / 2 * s + ')' : '';
        thing.setAttribute('transform', 'translate(' + place.x * s + ' ' + place.y * s + ')' + turn);
        var handles = document.querySelector('.map-handles');
        if (handles && thing.dataset.id === document.getElementById('map-edit').dataset.chosen) { handles.setAttribute('transform', thing.getAttribute('transform')); }
      },
      redraw: function () { var self = this; document.querySelectorAll('.thing').forEach(function (thing) { self.show(thing, self.read(thing)); }); },
      send: function (thing, place) {
        // By namedItem: the collection has a length of its own, which is not the thing's.
        var fields = document.getElementById('place').elements;
        fields.namedItem('what').value = thing.dataset.what;
        fields.namedItem('id').value = thing.dataset.id;
        ['x', 'y', 'length', 'width', 'turn'].forEach(function (name) { fields.namedItem(name).value = Math.round(place[name] * 10000) / 10000; });
        document.getElementById('place').requestSubmit();
      },

      arm: function () {
        var self = this;
        this.handles();
        window.interact('.thing').draggable({
          listeners: {
            start: function (event) { self.begin = self.read(event.target); self.moved = [0, 0]; document.getElementById('map-edit').dataset.chosen = event.target.dataset.id; event.target.focus({ preventScroll: true }); self.handles(event.target); },
            move: function (event) {
              var per = self.perPixel();
              self.moved = [self.moved[0] + event.dx * per, self.moved[1] + event.dy * per];
              self.place = { x: self.snapped(self.begin.x + self.moved[0]), y: self.snapped(self.begin.y + self.moved[1]), length: self.begin.length, width: self.begin.width, turn: self.begin.turn };
              self.show(event.target, self.place);
            },
            end: function (event) { if (self.place) { self.send(event.target, self.place); } self.place = null; }
          }
        });
      },
      // Two handles on what is chosen: one at its far corner resizes, one above it turns.
      handles: function (chosen) {
        document.querySelectorAll('.map-handles').forEach(function (old) { old.remove(); });
        var thing = chosen || this.thing(document.getElementById('map-edit').dataset.chosen);
        if (!thing) { return; }
        var self = this, place = this.read(thing), s = this.scale;
        // Above everything else on the map, since another thing may lie over a corner of this one.
        var group = document.createElementNS('http://www.w3.org/2000/svg', 'g');
        group.setAttribute('class', 'map-handles');
        group.setAttribute('transform', thing.getAttribute('transform'));
        thing.ownerSVGElement.appendChild(group);
        [['size', place.length * s, place.width * s], ['turn', place.length * s / 2, -16]].forEach(function (spec) {
          var handle = document.createElementNS('http://www.w3.org/2000/svg', 'circle');
          handle.setAttribute('class', 'map-handle is-' + spec[0]);
          handle.setAttribute('cx', spec[1]);
          handle.setAttribute('cy', spec[2]);
          handle.setAttribute('r', 7);
          group.appendChild(handle);
          window.interact(handle).draggable({
            listeners: {
              start: function () { self.begin = self.read(thing); self.moved = [0, 0]; },
              move: function (event) { self.pull(thing, spec[0], event); },
              end: function () { if (self.place) { self.send(thing, self.place); } self.place = null; }
            }
          });
        });
      },
      pull: function (thing, what, event) {
        var per = this.perPixel(), begin = this.begin, place = Object.assign({}, begin);
        this.moved = [this.moved[0] + event.dx * per, this.moved[1] + event.dy * per];
        if (what === 'size') {
          var angle = begin.turn * Math.PI / 180;
          var along = this.moved[0] * Math.cos(angle) + this.moved[1] * Math.sin(angle), across = this.moved[1] * Math.cos(angle) - this.moved[0] * Math.sin(angle);
          place.length = Math.max(this.nudge, this.snapped(begin.length + along));
          place.width = Math.max(this.nudge, this.snapped(begin.width + across));
          this.keepCorner(begin, place);
          thing.querySelector('.body, .bed-body').setAttribute('transform', 'scale(' + place.length / begin.length + ' ' + place.width / begin.width + ')');
        } else {
          var svg = this.$root.querySelector('.map-picture').getBoundingClientRect();
          var middle = [svg.left + (begin.x + begin.length / 2) / per, svg.top + (begin.y + begin.width / 2) / per];
          var turn = Math.atan2(event.clientX - middle[0], middle[1] - event.clientY) * 180 / Math.PI;
          place.turn = (Math.round(turn / 5) * 5 + 360) % 360;
        }
        this.place = place;
        this.show(thing, place);
      },
      // A turned box turns about its middle: when it grows, its top-left corner stays where it is on the ground.
      keepCorner: function (begin, place) {
        var angle = begin.turn * Math.PI / 180, c = Math.cos(angle), n = Math.sin(angle);
        var corner = function (p) { return [p.x + p.length / 2 - c * p.length / 2 + n * p.width / 2, p.y + p.width / 2 - n * p.length / 2 - c * p.width / 2]; };
        var was = corner(begin), is = corner(place);
        place.x += was[0] - is[0];
        place.y += was[1] - is[1];
      },

      pick: function (event) {
        var thing = event.target.closest('.thing');
        if (!thing) { return; }
        document.getElementById('map-edit').dataset.chosen = thing.dataset.id;
        this.handles(thing);
        var numbers = document.getElementById('thing-numbers');
        numbers.href = '/garden/map?thing=' + thing.dataset.id;
        numbers.hidden = false;
      },
      key: function (event) {
        var thing = event.target.closest('.thing');
        if (!thing || event.ctrlKey || event.metaKey || event.altKey) { return; }
        var place = this.read(thing), step = event.shiftKey ? this.snap : this.nudge;
        var moves = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
        if (event.key === 'Enter') { window.location = '/garden/map?thing=' + thing.dataset.id; return; }
        var before = Object.assign({}, place);
        if (event.key in moves) {
          place.x += moves[event.key][0] * step;
          place.y += moves[event.key][1] * step;
        } else if (event.key === 't' || event.key === 'T') {
          place.turn = (place.turn + (event.key === 't' ? 5 : 355)) % 360;
        } else if (event.key === 'l' || event.key === 'L') {
          place.length = Math.max(this.nudge, place.length + (event.key === 'l' ? 1 : -1) * this.snap);
          this.keepCorner(before, place);
        } else if (event.key === 'w' || event.key === 'W') {
          place.width = Math.max(this.nudge, place.width + (event.key === 'w' ? 1 : -1) * this.snap);
          this.keepCorner(before, place);
        } else { return; }
        event.preventDefault();
        this.later(thing, place);
      },
      // Keys come in quick succession: the drawing follows each, the server hears of the last.
      later: function (thing, place) {
        var self = this;
        thing.wasAt = thing.wasAt || this.read(thing);
        this.write(thing, place);
        this.show(thing, place);
        document.getElementById('map-edit').dataset.chosen = thing.dataset.id;
        window.clearTimeout(this.waiting);
        this.waiting = window.setTimeout(function () { self.send(thing, place); }, 350);
      }
    };
  });
});
