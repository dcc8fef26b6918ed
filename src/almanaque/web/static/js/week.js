// Moving a job to another lesson of the week by dragging it. What it means is the server's business; the job's own page does the
// same with keys.
document.addEventListener('alpine:init', function () {
  const FAR = 8;

  Alpine.data('weekBoard', function () {
    return {
      job: null, from: null, over: null, moved: false,

      down(event) {
        const job = event.target.closest('.job[data-job]');
        if (!job || event.button !== 0 || event.pointerType === 'touch' || event.target.closest('button, input')) { return; }
        this.job = job;
        this.from = [event.clientX, event.clientY];
        this.moved = false;
      },
      move(event) {
        if (!this.job) { return; }
        if (!this.moved && Math.hypot(event.clientX - this.from[0], event.clientY - this.from[1]) > FAR) {
          this.moved = true;
          this.job.classList.add('is-lifted');
          window.getSelection().removeAllRanges();
        }
        if (!this.moved) { return; }
        event.preventDefault();
        const under = document.elementFromPoint(event.clientX, event.clientY);
        const lesson = under && under.closest('[data-lesson]');
        if (lesson !== this.over) {
          if (this.over) { this.over.classList.remove('is-target'); }
          this.over = lesson;
          if (lesson) { lesson.classList.add('is-target'); }
        }
      },
      up() {
        const job = this.job, over = this.over, home = job && job.closest('[data-lesson]');
        const moved = this.moved;
        this.cancel();
        if (moved && over && over !== home) {
          const form = document.getElementById('move-job');
          form.action = form.dataset.base.replace('JOB', job.dataset.job);
          form.elements.lesson.value = over.dataset.lesson;
          form.requestSubmit();
        }
        this.dropped = moved;
      },
      cancel() {
        if (this.job) { this.job.classList.remove('is-lifted'); }
        if (this.over) { this.over.classList.remove('is-target'); }
        this.job = null;
        this.over = null;
        this.moved = false;
      },
      click(event) {
        // The click that ends a drag must not follow the link under it.
        if (this.dropped) { event.preventDefault(); event.stopPropagation(); this.dropped = false; }
      },
      nodrag(event) { event.preventDefault(); },
    };
  });
});
