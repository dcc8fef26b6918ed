// Units that the chosen crop can be noted in come first in the list that is offered.
document.addEventListener('alpine:init', function () {
  Alpine.data('picking', function () {
    return {
      init: function () { this.narrow(); },
      narrow: function () {
        var option = this.$refs.planting.selectedOptions[0];
        var known = option && option.dataset.units ? option.dataset.units.split('|') : null;
        var list = document.getElementById('pick-units');
        if (!known || !list) { return; }
        list.replaceChildren.apply(list, known.map(function (unit) {
          var one = document.createElement('option');
          one.value = unit;
          return one;
        }));
      }
    };
  });
});
