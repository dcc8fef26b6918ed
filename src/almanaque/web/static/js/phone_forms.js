// The forms of the page in the garden: anything that was seen, and pickings. Each form has its entry's number from when it is opened,
// so that it is one entry however often its button is pressed; an entry that waits can be opened in its form again.
const FieldForms = (function () {
  const BLANK = { id: '', was: null, bed: '', kind: '', planting: '', square: '', trouble: 'pest', what: '', stage: 'in flower', part: '', severity: 0, length: '', team: '', amount: '', of: '', remedy: '', note: '', viewpoint: '', place: '', people: '', error: '' };
  const NOTHING = { id: '', was: null, planting: '', amount: '', unit: '', use: '', part: '', group: '', quality: '', lost_to: '', note: '', last: false, doubted: false, error: '' };
  let stream = null, opening = false; // what the camera sees, while it is open

  function forms() {
    return {
      form: Object.assign({}, BLANK), picking: Object.assign({}, NOTHING), photo: null, camera: false,

      // Anything else
      adding(kind) { return this.form.kind === kind ? 'is-on' : ''; },
      async add(kind) {
        await this.whenKept();
        this.said = '';
        if (this.form.kind === kind) { if (this.mayLeave()) { this.stopAdding(); } return; }
        this.closeCamera();
        if (this.begun) { this.form.kind = kind; this.form.error = ''; return; } // what was typed stays
        const only = this.stop.plantings.length === 1 ? this.stop.plantings[0].id : '';
        this.form = Object.assign({}, BLANK, { kind: kind, planting: only, id: this.makeId() });
        this.photo = null;
        this.$nextTick(() => { const first = document.querySelector('.field-form select, .field-form input'); if (first) { first.focus(); } });
      },
      stopAdding() {
        this.closeCamera();
        this.form = Object.assign({}, BLANK);
        this.photo = null;
        const file = document.getElementById('f-photo');
        if (file) { file.value = ''; }
      },
      // True when something was typed that would be lost with the form.
      get begun() {
        const f = this.form;
        return Boolean(f.kind) && (Boolean(this.photo) || Boolean(f.was) || ['what', 'square', 'length', 'amount', 'of', 'remedy', 'note'].some((name) => f[name].trim()));
      },
      mayLeave() {
        if (!this.begun) { this.stopAdding(); return true; }
        this.form.error = 'Keep this or leave it first, so that it is not lost.';
        this.$nextTick(() => { const keep = document.getElementById('f-keep'); if (keep) { keep.focus(); } });
        return false;
      },
      async leaveIt() {
        if (this.form.was) { await FieldQueue.letGo(this.form.id); this.send(); }
        this.stopAdding();
      },
      wants(what) {
        const by = { planting: ['pest', 'stage', 'height', 'count', 'flowers', 'visitors', 'photo'], square: ['pest', 'count'], what: ['pest', 'visitors'], amount: ['pest', 'count', 'flowers', 'visitors'] };
        return by[what].indexOf(this.form.kind) >= 0;
      },
      choosePlanting() { this.form.error = ''; },
      get names() {
        if (!this.snap) { return []; }
        return this.form.kind === 'visitors' ? this.snap.visitors : this.snap.troubles[this.form.trouble];
      },
      get expected() {
        const p = this.stop.plantings.find((one) => one.id === this.form.planting);
        return this.lengths + (p && p.expect ? ' · about ' + p.expect + ' to expect' : '');
      },
      get amountWords() { return this.form.kind === 'pest' ? 'How many have it' : this.form.kind === 'count' ? 'How many plants stand' : this.form.kind === 'flowers' ? 'Open flowers (male, where they are apart)' : 'How many'; },
      get noteWords() { return this.form.kind === 'note' ? 'What you saw' : this.form.kind === 'photo' ? 'Words under it' : 'Note'; },
      severe(s) { return this.form.severity === s.key ? 'is-on' : ''; },
      severePressed(s) { return this.form.severity === s.key ? 'true' : 'false'; },
      // A photo of the same again: the last one from a marked place lies faintly over what the camera sees.
      get viewpoints() { return this.stop.viewpoints || []; },
      get newPlace() { return this.form.kind === 'photo' && this.form.viewpoint === 'new'; },
      get lastPhoto() {
        const place = this.viewpoints.find((one) => one.id === this.form.viewpoint);
        return place ? place.last : '';
      },
      get mayOpenCamera() { return this.form.kind === 'photo' && !this.camera && Boolean(navigator.mediaDevices && navigator.mediaDevices.getUserMedia); },
      get cameraIsOpen() { return this.camera; },
      get cameraWords() { return this.lastPhoto ? 'Take it over the last one' : 'Take it here'; },
      get photoWords() { return this.form.kind === 'photo' && this.photo ? 'A photo is ready to be kept.' : ''; },
      async openCamera() {
        if (opening || stream) { return; } // a second press while it opens
        opening = true;
        this.form.error = '';
        try {
          stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'environment', width: { ideal: 1600 } }, audio: false });
          this.camera = true;
          const video = document.getElementById('f-camera');
          video.srcObject = stream;
          await video.play();
        } catch (error) {
          this.closeCamera();
          this.form.error = 'The camera did not open. Choose a photo below instead.';
        } finally { opening = false; }
        if (this.form.kind !== 'photo') { this.closeCamera(); } // the form was left while it opened
      },
      closeCamera() {
        if (stream) { stream.getTracks().forEach((track) => track.stop()); }
        stream = null;
        this.camera = false;
      },
      async shoot() {
        const video = document.getElementById('f-camera'), canvas = document.createElement('canvas');
        canvas.width = video.videoWidth; canvas.height = video.videoHeight;
        canvas.getContext('2d').drawImage(video, 0, 0);
        this.photo = await new Promise((done) => { canvas.toBlob(done, 'image/jpeg', 0.9); });
        this.form.people = ''; // another picture, asked about anew
        this.closeCamera();
      },
      peopleIs(answer) { return this.form.people === answer ? 'is-on' : ''; },
      peoplePressed(answer) { return this.form.people === answer ? 'true' : 'false'; },
      somebody() {
        this.form.people = 'yes';
        this.form.error = 'Then it is not for the garden: it keeps no faces. Take it again with plants only, or from behind.';
      },
      takePhoto(event) { this.photo = event.target.files[0] || null; this.form.people = ''; },
      seeNothing() { this.enter('sighting', { what_kind: 'nothing new', bed: this.stop.id }, this.stop.name + ': nothing new', () => { this.say('Nothing new, noted.'); }, { key: 'nothing:' + this.stop.id }); },
      say(words) { this.said = words; },
      number(text) { const plain = text.trim(); return plain === '' ? null : (/^\d+$/.test(plain) ? Number(plain) : NaN); },
      keep() { this.once(() => this.keepForm()); },
      pick() { this.once(() => this.keepPicking()); },
      // A second press does nothing while the first is being kept; what is pressed next waits for it.
      once(work) {
        if (this.keeping) { return; }
        this.keeping = true;
        this.keptNow = work().finally(() => { this.keeping = false; });
      },
      async whenKept() { if (this.keeping) { await this.keptNow; } },
      async keepForm() {
        const made = this.entryOf(this.form);
        if (!made) { return; }
        if (made.kind === 'photo') { made.more.blob = this.photo ? await FieldQueue.shrink(this.photo) : made.more.blob; }
        // One form is one entry, however often its button is pressed.
        if (!await this.enter(made.kind, made.say, made.words, null, made.more)) { return; }
        this.stopAdding();
        this.say('Kept.');
        this.top();
      },
      // What a form says, or nothing with the reason beside it.
      entryOf(f) {
        const bed = f.bed || this.stop.id, on = { bed: bed, planting: f.planting || null }, where = (this.stops.find((s) => s.id === bed) || this.stop).name;
        const amount = this.number(f.amount), of = this.number(f.of), note = f.note.trim();
        const more = Object.assign({ id: f.id }, f.was || {});
        const wrong = (words) => { f.error = words; return null; };
        const seen = (say, words) => ({ kind: 'sighting', say: Object.assign(say, on), words: where + ': ' + words, more: more });
        if (Number.isNaN(amount) || Number.isNaN(of)) { return wrong('A count is a whole number.'); }
        if (f.kind === 'note') {
          return note ? { kind: 'note', say: { bed: bed, body: note }, words: where + ': ' + note, more: more } : wrong('The note is empty. Write what you saw.');
        }
        if (f.kind === 'photo') {
          if (!this.photo && !more.blob) { return wrong('Take or choose a photo first.'); }
          if (f.people === 'yes') { this.somebody(); return null; }
          if (f.people !== 'no') { return wrong('Say whether somebody can be recognised in it.'); }
          const place = this.viewpoints.find((one) => one.id === f.viewpoint), fresh = f.viewpoint === 'new';
          if (fresh && !f.place.trim()) { return wrong('Give the marked place a name, such as corner post.'); }
          const from = place || fresh ? { viewpoint: place ? place.id : this.makeId(), viewpoint_name: place ? place.name : f.place.trim() } : {};
          return { kind: 'photo', say: Object.assign({ bed: bed, planting: f.planting, caption: note.slice(0, 200), people: 'no' }, from), words: where + ': photo', more: more };
        }
        if (f.kind === 'pest') {
          if (!f.what.trim()) { return wrong('Say what it is; “unknown” will do.'); }
          return seen({ what_kind: f.trouble, what: f.what.trim(), part: f.part, severity: f.severity || null, amount: amount, of_amount: of, square: f.square.trim(), remedy: f.remedy.trim(), note: note }, f.what.trim());
        }
        if (f.kind === 'stage') {
          return f.planting ? seen({ what_kind: 'stage', what: f.stage, note: note }, f.stage) : wrong('Choose the planting that it is about.');
        }
        if (f.kind === 'height') {
          if (!f.planting || !f.length.trim()) { return wrong('Choose the planting and measure one plant.'); }
          return seen({ what_kind: 'height', length: f.length.trim(), team: f.team, note: note }, f.length.trim() + ' tall');
        }
        if (f.kind === 'flowers') {
          if (amount === null && of === null) { return wrong('Count the open flowers; none is 0.'); }
          return seen({ what_kind: 'flowers', amount: amount, second: of, note: note }, (amount || 0) + ' flowers');
        }
        if (amount === null) { return wrong('Say how many; none is 0.'); }
        const visitors = f.kind === 'visitors';
        if (visitors && !f.what.trim()) { return wrong('Say which visitors.'); }
        return seen({ what_kind: f.kind, what: visitors ? f.what.trim() : '', amount: amount, square: f.square.trim(), note: note }, amount + ' ' + (visitors ? f.what.trim() : 'plants'));
      },

      // What waits can be opened again, as long as it has not gone.
      isMine(e) { return Boolean(this.snap) && e.account === this.snap.account.id && e.school === this.snap.school.id; },
      canChange(e) {
        if (!this.isMine(e)) { return false; } // else it would be sent in another name
        return e.kind === 'note' || e.kind === 'photo' || (e.kind === 'sighting' && e.say.what_kind !== 'nothing new')
          || (e.kind === 'picking' && this.pickable.some((r) => r.id === e.say.planting));
      },
      async change(e) {
        const held = await FieldQueue.hold(e.id);
        if (!held) { this.say('It was sent meanwhile. Change it on the pages of Almanaque.'); await this.listQueue(); return; }
        const was = { noted_at: held.noted_at, noted_on: held.noted_on, order: held.order, held: false, problem: '' }, say = held.say;
        const text = (value) => (value === null || value === undefined ? '' : String(value));
        if (held.kind === 'picking') {
          const r = this.pickable.find((one) => one.id === say.planting);
          await this.show('pick');
          this.picking = Object.assign({}, NOTHING, say, { id: held.id, was: was, part: say.part || (r.parts ? r.parts[0] : ''), doubted: Boolean(say.sure) });
          return;
        }
        const at = this.stops.findIndex((s) => s.id === say.bed);
        if (at >= 0) { this.at = at; }
        await this.show('bed');
        const trouble = ['pest', 'disease', 'damage'].indexOf(say.what_kind) >= 0;
        this.form = Object.assign({}, BLANK, {
          id: held.id, was: Object.assign(was, held.blob ? { blob: held.blob } : {}), bed: say.bed,
          kind: held.kind === 'sighting' ? (trouble ? 'pest' : say.what_kind) : held.kind, trouble: trouble ? say.what_kind : 'pest',
          planting: text(say.planting), square: text(say.square), what: say.what_kind === 'stage' ? '' : text(say.what), stage: say.what_kind === 'stage' ? say.what : BLANK.stage,
          part: text(say.part), severity: say.severity || 0, length: text(say.length), team: text(say.team), amount: text(say.amount),
          of: text(say.what_kind === 'flowers' ? say.second : say.of_amount), remedy: text(say.remedy), note: text(say.body || say.caption || say.note),
          people: text(say.people), place: text(say.viewpoint_name),
          viewpoint: this.viewpoints.some((one) => one.id === say.viewpoint) ? say.viewpoint : (say.viewpoint_name ? 'new' : ''),
        });
      },

      // Pickings
      get pickedFrom() { return this.pickable.find((one) => one.id === this.picking.planting); },
      get choosing() { return this.somethingReady && !this.pickedFrom; },
      get isChosen() { return Boolean(this.pickedFrom); },
      get chosenLabel() { return this.pickedFrom ? this.pickedFrom.label : ''; },
      get chosenUnits() { return this.pickedFrom ? this.pickedFrom.units || this.units : []; },
      get chosenParts() { return this.pickedFrom ? this.pickedFrom.parts || [] : []; },
      get taps() { return this.pickedFrom ? this.pickedFrom.taps || [] : []; },
      get groups() { return this.snap ? this.snap.groups || [] : []; },
      get canClose() { return Boolean(this.pickedFrom) && !this.pickedFrom.stays; },
      get keepWords() { return this.picking.doubted ? 'It is right: keep it' : 'Keep the picking'; },
      get sign() {
        const r = this.pickedFrom;
        return !r ? '' : (r.signs && r.signs[this.picking.part]) || 'Ready: ' + r.sign + '. ' + r.how;
      },
      get drawings() { return (this.pickedFrom && this.pickedFrom.pictures) || []; },
      choose(r) {
        this.picking = Object.assign({}, NOTHING, { id: this.makeId(), planting: r.id, unit: (r.taps && r.taps.length ? r.taps[0].unit : this.units[0]), use: this.picking.use || this.uses[0], part: r.parts ? r.parts[0] : '' });
        this.top();
      },
      async chooseAnother() {
        if (this.picking.was) { await FieldQueue.letGo(this.picking.id); this.send(); }
        this.picking = Object.assign({}, NOTHING, { use: this.picking.use });
        this.top();
      },
      tapped(t) { return this.tappedNow(t) === 'true' ? 'is-on' : ''; },
      tappedNow(t) { return this.picking.amount === t.amount && this.picking.unit === t.unit ? 'true' : 'false'; },
      tap(t) { this.picking.amount = t.amount; this.picking.unit = t.unit; this.picking.doubted = false; this.picking.error = ''; },
      doubtful(r, p) { // far more than is usual, as far as a plain number tells
        const most = r.ask ? r.ask[p.unit] : 0, amount = Number(p.amount.replace(',', '.'));
        return Boolean(most) && amount > most;
      },
      async keepPicking() {
        const p = this.picking, r = this.pickedFrom;
        if (!r || !p.amount.trim()) { p.error = 'Say how much was picked.'; return; }
        if (!p.doubted && this.doubtful(r, p)) {
          p.doubted = true;
          p.error = p.amount + ' ' + p.unit + ' is far more than is usual for this planting. Check amount and unit; if it is right, keep it.';
          return;
        }
        const say = { planting: p.planting, amount: p.amount.trim(), unit: p.unit, use: p.use };
        if (p.part && r.parts && p.part !== r.parts[0]) { say.part = p.part; }
        ['group', 'quality', 'lost_to', 'note'].forEach((name) => { if (p[name].trim()) { say[name] = p[name].trim(); } });
        if (p.last) { say.last = true; }
        if (p.doubted) { say.sure = true; }
        if (!await this.enter('picking', say, 'Picked ' + p.amount.trim() + ' ' + p.unit + ': ' + r.label, null, Object.assign({ id: p.id }, p.was || {}))) { return; }
        this.picking = Object.assign({}, NOTHING, { use: p.use });
        this.say('The picking is kept.');
        this.top();
      },
    };
  }

  // The page with its forms. Values that are computed stay so.
  function within(page) { return Object.defineProperties(page, Object.getOwnPropertyDescriptors(forms())); }

  return { within: within };
})();
