// Only the units that the chosen crop can be noted in.
document.addEventListener('alpine:init', function () {
  Alpine.data('picking', function () {
    return {
      init: function () { this.narrow(); },
      narrow: function () {
        var option = this.$refs.planting.selectedOptions[0];
        var known = option && option.dataset.units ? option.dataset.units.split(' ') : null;
        var unit = this.$refs.unit;
        Array.from(unit.options).forEach(function (one) {
          one.hidden = one.disabled = Boolean(known) && known.indexOf(one.value) < 0;
        });
        if (unit.selectedOptions[0] && unit.selectedOptions[0].disabled) {
          unit.value = Array.from(unit.options).filter(function (one) { return !one.disabled; })[0].value;
        }
      }
    };
  });
});
