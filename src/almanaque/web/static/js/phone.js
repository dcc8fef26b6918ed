// The page in the garden: a tour bed by bed, jobs and pickings, over the snapshot that the phone keeps. What is entered is put
// into the queue first and sent when it can be; the page never waits for the network.
document.addEventListener('alpine:init', function () {
  const DAY = 86400000;
  let last = 0;
  function nextOrder() { last = Math.max(last + 1, Date.now()); return last; }

  // The same job may stand under its bed and under today's jobs.
  function eachJob(snap, change) { snap.jobs.concat(...snap.stops.map((s) => s.jobs)).forEach(change); }

  function count(number, one, many) { return number + ' ' + (number === 1 ? one : many); }

  Alpine.data('field', function () {
    return FieldForms.within({
      view: 'home', snap: null, at: 0, queue: [], entered: [], online: navigator.onLine, out: '', said: '', sending: false, keeping: false, keptNow: null, insecure: !window.isSecureContext,

      async init() {
        window.addEventListener('online', () => { this.online = true; this.send(); });
        window.addEventListener('offline', () => { this.online = false; });
        if ('serviceWorker' in navigator) { navigator.serviceWorker.register('/field/worker.js').catch(() => {}); }
        if (navigator.storage && navigator.storage.persist) { navigator.storage.persist().catch(() => {}); }
        try {
          await FieldQueue.letGo();
          this.queue = await FieldQueue.all();
          this.take(await FieldQueue.kept('snapshot'), this.queue);
        } catch (error) { this.said = 'This browser keeps nothing, so nothing can be entered here. Leave its private mode, or take another browser.'; }
        await this.refresh();
        setInterval(() => { if (this.queue.length) { this.send(); } }, 30000);
      },

      // The snapshot. It tells what the server knew when it was asked: what was entered since, or was waiting then, holds over it.
      async ask() {
        const waiting = await FieldQueue.all(), since = this.entered.length;
        const snap = await FieldQueue.snapshot();
        if (!snap.out) { snap.fetched = Date.now(); this.take(snap, waiting.concat(this.entered.slice(since))); }
        return snap;
      },
      take(snap, newer) {
        if (!snap) { return; }
        const given = {};
        newer.forEach((e) => { if (e.key) { given[e.key] = e.say; } });
        snap.stops.forEach((s) => s.questions.forEach((q) => { q.typed = q.typed || ''; q.other = q.other || ''; if (given[q.key]) { q.given = given[q.key].answer || 'given'; } }));
        eachJob(snap, (job) => { if (given['job:' + job.id]) { job.status = given['job:' + job.id].status; } });
        this.snap = snap;
        this.at = Math.min(this.at, Math.max(0, snap.stops.length - 1));
        this.picking.use = this.picking.use || snap.uses[0];
      },
      async refresh() {
        await this.send();
        try {
          const snap = await this.ask();
          this.online = true;
          this.out = snap.out || '';
          if (snap.out) { return; }
          this.queue = await FieldQueue.all();
          this.remember();
          await this.send(); // what belongs to whoever has logged in meanwhile
        } catch (error) { this.online = false; }
      },
      // Only so that a later start without a signal knows the garden: without room for it the page goes on.
      remember() {
        if (this.out) { return; } // nobody is logged in: the phone keeps no garden then
        FieldQueue.keep('snapshot', JSON.parse(JSON.stringify(this.snap))).catch(() => {});
        this.drawn().forEach((src) => { fetch(src).catch(() => {}); }); // the worker keeps them
      },
      drawn() {
        const of = [].concat(...this.snap.stops.map((s) => s.questions), this.snap.ready);
        return Array.from(new Set([].concat(...of.map((one) => (one.pictures || []).map((drawing) => drawing.src)))));
      },
      get ready() { return Boolean(this.snap); },
      get stops() { return this.snap ? this.snap.stops : []; },
      get stop() { return this.snap && this.snap.stops.length ? this.snap.stops[this.at] : { questions: [], jobs: [], plantings: [], last: '' }; },
      get mayLookUp() { return this.online && Boolean(this.stop.id); },
      get seedlings() { return '/garden/beds/' + this.stop.id + '/seedlings'; },
      get jobs() { return this.snap ? this.snap.jobs : []; },
      get pickable() { return this.snap ? this.snap.ready : []; },
      get units() { return this.snap ? this.snap.units : []; },
      get uses() { return this.snap ? this.snap.uses : []; },
      get parts() { return this.snap ? this.snap.parts : []; },
      get stages() { return this.snap ? this.snap.stages : []; },
      get teams() { return this.snap ? this.snap.teams || [] : []; },
      get measuring() { return this.form.kind === 'height' && this.teams.length > 0; },
      get severities() { return this.snap ? this.snap.severity : []; },
      get lengths() { return this.snap ? this.snap.lengths : ''; },
      get loggedOut() { return Boolean(this.out) || (!this.snap && !this.online); },
      get loggedOutTitle() { return !this.online && !this.snap ? 'No signal' : this.out === 'right' ? 'This login only looks' : 'Log in to go on'; },
      get mayLogIn() { return this.out === 'login'; },
      get loggedOutWords() {
        if (!this.online && !this.snap) { return 'This phone has no garden on it yet. Open this page once with a signal.'; }
        if (this.out === 'right') { return 'It cannot enter anything. Ask the school’s coordinator if it should, or log in as somebody else on the pages of Almanaque.'; }
        return this.queue.length ? 'What was entered waits here and is sent after the login.' : 'Then the garden comes to this phone.';
      },

      // Words
      get small() {
        if (this.view === 'bed') { return 'Tour, bed ' + (this.at + 1) + ' of ' + this.stops.length; }
        return this.snap ? this.snap.school.name + ' · ' + this.snap.day : 'Almanaque';
      },
      get title() {
        if (this.view === 'bed') { return this.stop.name || ''; }
        return { home: 'In the garden', jobs: 'Jobs', pick: 'Pick', waiting: 'Waiting' }[this.view];
      },
      get pill() {
        const n = this.queue.length;
        if (n && this.mine.some((e) => e.problem)) { return count(n, 'needs a look', 'need a look'); }
        if (!this.online) { return n ? 'No signal · ' + n + ' waiting' : 'No signal'; }
        if (this.out && n) { return n + ' waiting for login'; }
        return n ? (this.sending ? 'Sending ' + n : n + ' waiting') : 'All sent';
      },
      get pillClass() { return this.queue.length || !this.online ? 'is-waiting' : ''; },
      get mayLogOut() { return this.ready && this.online && !this.out; },
      get formToken() { return this.snap ? this.snap.token : ''; },
      get who() { return this.snap ? 'Entered as ' + this.snap.account.name + '.' : ''; },
      get tourWords() {
        const asked = this.stops.reduce((sum, s) => sum + this.open(s), 0);
        return asked ? count(asked, 'thing to look at', 'things to look at') + ' in ' + count(this.stops.length, 'bed', 'beds') : 'Nothing asks to be looked at today; a walk finds what nobody expects.';
      },
      get jobsWords() { return count(this.jobs.filter((j) => j.status === 'open').length, 'job', 'jobs'); },
      get readyWords() { return this.pickable.length ? count(this.pickable.length, 'ready', 'ready') : 'Pick'; },
      get noJobs() { return this.jobs.length === 0; },
      get nothingReady() { return this.pickable.length === 0; },
      get somethingReady() { return this.pickable.length > 0; },
      get backWords() { return this.view === 'bed' && this.at > 0 ? 'Back' : 'Home'; },
      get nextWords() { return this.at + 1 < this.stops.length ? 'Next: ' + this.stops[this.at + 1].name : 'End of the tour'; },
      get mine() { return this.queue.filter((e) => this.isMine(e)); },
      get othersWords() {
        const n = this.queue.length - this.mine.length;
        return n ? count(n, 'entry of somebody else waits', 'entries of others wait') + ' on this phone until they log in. Nobody else can see or send them.' : '';
      },
      get queueWords() { return this.queue.length ? 'Kept on this phone until the school’s server has it. Nothing is lost when the page is closed.' : 'Everything that was entered on this phone has been sent.'; },
      open(stop) { return stop.questions.filter((q) => !q.given).length; },
      asks(stop) {
        const jobs = stop.jobs.filter((j) => j.status === 'open').length;
        const found = [];
        if (this.open(stop)) { found.push(count(this.open(stop), 'question', 'questions')); }
        if (jobs) { found.push(count(jobs, 'job', 'jobs')); }
        return found.join(' · ') || stop.purpose;
      },
      plantingWords(p) { return p.name + ', ' + p.where; },
      jobFacts(job) { return [job.when, job.who, job.bed, job.minutes + ' min'].filter(Boolean).join(' · '); },
      entryFacts(e) {
        return 'Noted ' + new Date(e.noted_at).toLocaleString([], { weekday: 'short', hour: '2-digit', minute: '2-digit' });
      },

      // Walking
      async show(view) {
        await this.whenKept();
        if (!this.mayLeave()) { return; }
        this.view = view; this.said = ''; if (view === 'waiting') { this.listQueue(); } this.top();
      },
      start() {
        const first = this.stops.findIndex((s) => this.open(s));
        this.go(first < 0 ? 0 : first);
      },
      async go(index) {
        await this.whenKept();
        if (this.mayLeave()) { this.at = index; await this.show('bed'); }
      },
      async next() {
        await this.whenKept();
        if (!this.mayLeave()) { return; }
        if (this.at + 1 < this.stops.length) { this.go(this.at + 1); } else { this.show('home'); this.refresh(); }
      },
      async back() {
        await this.whenKept();
        if (!this.mayLeave()) { return; }
        if (this.view === 'bed' && this.at > 0) { this.go(this.at - 1); } else { this.show('home'); this.refresh(); }
      },
      top() { this.$nextTick(() => { window.scrollTo(0, 0); document.getElementById('field-title').focus({ preventScroll: true }); }); },

      // Entering
      today() {
        // Days since the snapshot came, so that a phone that was out of reach overnight dates its notes rightly.
        const midnight = (instant) => { const d = new Date(instant); return Date.UTC(d.getFullYear(), d.getMonth(), d.getDate()); };
        const passed = Math.round((midnight(Date.now()) - midnight(this.snap.fetched || Date.now())) / DAY);
        return new Date(Date.parse(this.snap.today + 'T00:00:00Z') + passed * DAY).toISOString().slice(0, 10);
      },
      // First on the phone, then on the page: what is shown as noted is kept. False when the phone could not keep it.
      async enter(kind, say, words, show, more) {
        const entry = Object.assign({
          id: this.makeId(), kind: kind, say: say, words: words, noted_at: new Date().toISOString(), order: nextOrder(), noted_on: this.today(),
          account: this.snap.account.id, school: this.snap.school.id, name: this.snap.account.name, where: this.snap.school.name, problem: '',
        }, more || {});
        try { await FieldQueue.put(entry); } catch (error) {
          this.said = 'Not noted: this phone has no room to keep it. Free some room and enter it again, or write it on paper.';
          this.top();
          return false;
        }
        this.entered.push(entry);
        if (show) { show(); }
        this.remember();
        this.queue = await FieldQueue.all();
        this.send();
        return true;
      },
      makeId() {
        if (crypto.randomUUID) { return crypto.randomUUID(); }
        // Without https the browser has no randomUUID; the bits are as random.
        const b = crypto.getRandomValues(new Uint8Array(16));
        b[6] = (b[6] & 15) | 64; b[8] = (b[8] & 63) | 128;
        const hex = Array.from(b, (x) => x.toString(16).padStart(2, '0')).join('');
        return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
      },
      async send() {
        this.queue = await FieldQueue.all();
        if (!this.snap || this.sending) { return; }
        this.sending = true;
        let before = -1;
        // Once more for what was entered meanwhile, as long as something goes.
        while (this.queue.length && this.queue.length !== before) {
          await FieldQueue.tidy();
          before = (await FieldQueue.all()).length;
          await this.fly();
          this.queue = await FieldQueue.all();
        }
        this.sending = false;
      },
      async fly() {
        try {
          let became = await this.sendOnce();
          if (became === 'right') {
            // The form token is older than the login. The snapshot brings a new one, or says who is missing.
            became = (await this.ask()).out || await this.sendOnce();
          }
          this.online = true;
          this.out = became === 'sent' ? '' : became;
        } catch (error) { this.online = navigator.onLine && !(error instanceof TypeError); }
      },
      sendOnce() { return FieldQueue.send({ account: this.snap.account.id, school: this.snap.school.id }, this.snap.token); },
      async listQueue() { this.queue = await FieldQueue.all(); },
      async again(entry) { // a picking that was refused and is sent again is said to be right
        const same = Object.assign(JSON.parse(JSON.stringify(entry)), { problem: '' }, entry.blob ? { blob: entry.blob } : {});
        if (same.kind === 'picking') { same.say.sure = true; }
        await FieldQueue.put(same);
        this.send();
      },
      async drop(entry) {
        if (await FieldQueue.hold(entry.id)) { await FieldQueue.remove(entry.id); } else { this.say('It was sent meanwhile.'); }
        this.queue = await FieldQueue.all();
        this.top();
      },

      // The tour's questions
      chosen(q, a) { return q.given === a.key ? 'is-on' : ''; },
      pressed(q, a) { return q.given === a.key ? 'true' : 'false'; },
      given(q) { return q.given ? 'is-on' : ''; },
      answer(q, a) {
        const say = { code: q.code, subject: q.subject, answer: a.key };
        if (q.ask === 'place' || q.ask === 'much') { say.name = q.typed.trim(); }
        this.enter('answer', say, q.title + ' ' + a.label, () => { q.given = a.key; }, { key: q.key });
      },
      measure(q) {
        const typed = q.typed.trim(), show = () => { q.given = 'given'; };
        if (!typed && !q.other.trim()) { return; }
        if (q.ask === 'length') { this.enter('answer', { code: q.code, subject: q.subject, length: typed }, q.title + ' ' + typed, show, { key: q.key }); return; }
        const say = { code: q.code, subject: q.subject, amount: Number(typed || 0), second: Number(q.other.trim() || 0) };
        this.enter('answer', say, q.title + ' ' + say.amount + ' male, ' + say.second + ' female', show, { key: q.key });
      },

      nameIt(q) {
        const name = q.typed.trim();
        if (!name) { return; }
        const show = () => { q.title = name + ': keep it?'; q.ask = 'choice'; };
        this.enter('answer', { code: q.code, subject: q.subject, name: name }, 'It is ' + name, show, { key: q.key + ':name' });
      },

      // Jobs
      jobIs(job, status) { return job.status === status ? 'is-on' : ''; },
      jobPressed(job, status) { return job.status === status ? 'true' : 'false'; },
      tick(job, status) {
        const now = job.status === status ? 'open' : status;
        const words = { open: 'Open again: ', done: 'Done: ', partly: 'Partly done: ' }[now] || 'Not needed: ';
        const show = () => { eachJob(this.snap, (one) => { if (one.id === job.id) { one.status = now; } }); };
        this.enter('job', { task: job.id, status: now }, words + job.title, show, { key: 'job:' + job.id });
      },
    });
  });
});
