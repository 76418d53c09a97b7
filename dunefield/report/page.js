// Tables of the report: sorted by their headings, copied as CSV.
(function () {
  "use strict";
  function number(text) {
    var found = /[-+]?\d+(\.\d+)?(e[-+]?\d+)?/i.exec(text);
    return found ? parseFloat(found[0]) : NaN;
  }
  function cells(row) { return Array.prototype.map.call(row.cells, function (c) { return c.textContent; }); }
  document.querySelectorAll("table").forEach(function (table) {
    var body = table.tBodies[0];
    table.querySelectorAll("thead button").forEach(function (button, column) {
      button.addEventListener("click", function () {
        var up = button.parentNode.getAttribute("aria-sort") !== "ascending";
        table.querySelectorAll("thead th").forEach(function (h) { h.setAttribute("aria-sort", "none"); });
        button.parentNode.setAttribute("aria-sort", up ? "ascending" : "descending");
        Array.prototype.slice.call(body.rows).sort(function (a, b) {
          var x = a.cells[column].textContent, y = b.cells[column].textContent, m = number(x), n = number(y);
          var order = column > 0 && !isNaN(m) && !isNaN(n) ? m - n : x.localeCompare(y);
          return up ? order : -order;
        }).forEach(function (row) { body.appendChild(row); });
      });
    });
    var copy = table.parentNode.parentNode.querySelector("button.copy");
    if (!copy) return;
    copy.addEventListener("click", function () {
      var text = Array.prototype.map.call(table.rows, function (row) {
        return cells(row).map(function (c) { return /[",\n]/.test(c) ? '"' + c.replace(/"/g, '""') + '"' : c; }).join(",");
      }).join("\n");
      var done = function () { copy.textContent = "copied"; };
      if (navigator.clipboard) { navigator.clipboard.writeText(text).then(done, function () { copy.textContent = "the browser does not allow it"; }); }
    });
  });
}());
