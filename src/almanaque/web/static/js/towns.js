// A town from the list fills the fields of the place.
document.addEventListener('click', function (event) {
  var town = event.target.closest('[data-town]');
  var form = document.getElementById('place-form');
  if (!town || !form) return;
  form.elements.place_name.value = town.dataset.name;
  form.elements.latitude.value = town.dataset.latitude;
  form.elements.longitude.value = town.dataset.longitude;
  form.elements.zone.value = town.dataset.zone;
  form.elements.place_name.focus();
  document.getElementById('announce').textContent = town.dataset.name + ' is filled in. Save the place to keep it.';
});
