// Tables of the report: sorted by their headings, copied as CSV.
(function () {
  "use strict";

  function number(text) {
    var found = /[-+]?\d+(\.\d+)?(e[-+]?\d+)?/i.exec(text);
    return found ? parseFloat(found[0]) : NaN;
  }

  function sort(table, button, column) {
    var up = button.parentNode.getAttribute("aria-sort") !== "ascending";
    table.querySelectorAll("thead th").forEach(function (heading) {
      heading.setAttribute("aria-sort", "none");
    });
    button.parentNode.setAttribute("aria-sort", up ? "ascending" : "descending");
    var body = table.tBodies[0];
    var rows = Array.prototype.slice.call(body.rows);
    rows.sort(function (a, b) {
      var x = a.cells[column].textContent, y = b.cells[column].textContent;
      var m = number(x), n = number(y);
      var order = column > 0 && !isNaN(m) && !isNaN(n) ? m - n : x.localeCompare(y);
      return up ? order : -order;
    });
    rows.forEach(function (row) { body.appendChild(row); });
  }

  function csv(table) {
    return Array.prototype.map.call(table.rows, function (row) {
      return Array.prototype.map.call(row.cells, function (cell) {
        var text = cell.textContent;
        return /[",\n]/.test(text) ? '"' + text.replace(/"/g, '""') + '"' : text;
      }).join(",");
    }).join("\n");
  }

  document.querySelectorAll("table").forEach(function (table) {
    table.querySelectorAll("thead button").forEach(function (button, column) {
      button.addEventListener("click", function () { sort(table, button, column); });
    });
    var copy = table.parentNode.parentNode.querySelector("button.copy");
    if (!copy) return;
    copy.addEventListener("click", function () {
      if (!navigator.clipboard) {
        copy.textContent = "the browser does not allow it";
        return;
      }
      navigator.clipboard.writeText(csv(table)).then(
        function () { copy.textContent = "copied"; },
        function () { copy.textContent = "the browser does not allow it"; });
    });
  });
}());
