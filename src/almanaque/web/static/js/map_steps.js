// What the hand has done that the server has not answered yet: steps {form, id, place, base, values}, one sent at a time, in order.
// `submit(step)` gives the form that it sent, null where nothing is left to send; `refused()` draws things as they are.
// Steps by keys are held a moment, so that one that follows them goes with them; a step of the same thing that still waits is replaced.
window.MapSteps = function (submit, refused) {
  var HELD_MS = 350;
  var held = null, waiting = [], underWay = null, timer = null;

  // Where a thing lies by the hand; null where the server's word is the last.
  function ahead(id) {
    var last = [underWay].concat(waiting, [held]).filter(function (step) { return step && step.id === id; }).pop();
    return last ? last.place : null;
  }
  function add(step) {
    var before = waiting.find(function (one) { return one.id === step.id && one.form === step.form; });
    if (before) { before.place = step.place; before.values = step.values; } else { waiting.push(step); }
    next();
  }
  function hold(step) {
    if (held && held.id !== step.id) { flush(); }
    held = held ? Object.assign(held, { place: step.place, values: step.values }) : step;
    clearTimeout(timer);
    timer = setTimeout(flush, HELD_MS);
  }
  function flush() {
    var step = held;
    letGo();
    if (step) { add(step); }
  }
  // Takes back what keys did a moment ago; true where there was something.
  function letGo() {
    var was = held;
    clearTimeout(timer);
    held = null;
    return Boolean(was);
  }
  function next() {
    if (underWay || !waiting.length) { return; }
    underWay = waiting.shift();
    underWay.sentBy = submit(underWay);
    if (!underWay.sentBy) { underWay = null; next(); }
  }
  // The answer to what is under way came and is drawn. What was refused, or not heard of, takes the later steps of its thing with it.
  function answered(accepted) {
    var id = underWay.id;
    underWay = null;
    if (accepted) { return; }
    waiting = waiting.filter(function (step) { return step.id !== id; });
    if (held && held.id === id) { letGo(); }
  }
  function busy() { return Boolean(held || waiting.length || underWay); }

  function mine(event) { return underWay && event.detail.requestConfig && event.detail.requestConfig.elt === underWay.sentBy; }
  document.addEventListener('htmx:beforeSwap', function (event) {
    if (mine(event) && event.detail.xhr.status < 500) { answered(event.detail.xhr.status < 400); }
  });
  // Also where nothing was drawn. A form that is busy still will be sent again by itself: too many were here.
  document.addEventListener('htmx:afterRequest', function (event) {
    setTimeout(function () {
      if (mine(event) && underWay.sentBy.getAttribute('aria-busy') !== 'true') { answered(false); refused(); }
      next();
    });
  });
  return { ahead: ahead, add: add, hold: hold, flush: flush, letGo: letGo, busy: busy };
};
