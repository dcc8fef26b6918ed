// Holds a photo beside the drawings. It stays in this browser: nothing is sent.
(function () {
  var input = document.getElementById('held-photo'), shown = document.getElementById('held-shown'), last = '';
  if (!input) { return; }
  document.getElementById('held').hidden = false;
  input.addEventListener('change', function () {
    if (last) { URL.revokeObjectURL(last); }
    last = input.files.length ? URL.createObjectURL(input.files[0]) : '';
    shown.hidden = !last;
    if (last) { shown.src = last; }
  });
})();
