(function () {
  var tools = document.getElementById("tools"), filter = document.getElementById("filter");
  var sort = document.getElementById("sort"), cards = document.querySelector(".cards");
  var all = Array.prototype.slice.call(cards.children);
  tools.hidden = false;
  tools.addEventListener("submit", function (event) { event.preventDefault(); });
  function arrange() {
    var wanted = filter.value.toLowerCase(), order = all.slice();
    if (sort.value === "name") order.sort(function (a, b) { return a.dataset.name.localeCompare(b.dataset.name); });
    if (sort.value === "trouble") order.sort(function (a, b) { return b.dataset.trouble - a.dataset.trouble; });
    order.forEach(function (card) {
      card.hidden = card.textContent.toLowerCase().indexOf(wanted) < 0;
      cards.appendChild(card);
    });
  }
  filter.addEventListener("input", arrange);
  sort.addEventListener("change", arrange);
})();
