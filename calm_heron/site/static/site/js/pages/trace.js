// A rim tapped on a photograph: first both ends of a known length, then places round the rim, as shares of the picture's width.
function trace(form) {
  const picture = form.querySelector("[data-tapped]");
  if (!picture) return;
  const shown = form.querySelector("[data-taps]");
  const field = form.elements.points;
  let points = [];

  const draw = () => {
    shown.replaceChildren(...points.map(([x, y], k) => {
      const dot = document.createElementNS("http://www.w3.org/2000/svg", "circle");
      dot.setAttribute("class", k < 2 ? "arrival" : "now");
      dot.setAttribute("cx", x * 100);
      dot.setAttribute("cy", (y * 100 * picture.clientWidth) / picture.clientHeight);
      dot.setAttribute("r", 1.4);
      return dot;
    }));
    field.value = points.length ? JSON.stringify(points.map((one) => one.map((share) => Number(share.toFixed(4))))) : "";
  };
  picture.parentElement.addEventListener("click", (event) => {
    const box = picture.getBoundingClientRect();
    points.push([(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.width]);
    draw();
  });
  form.querySelector("[data-untap]").addEventListener("click", () => { points = []; draw(); });
}

document.querySelectorAll("form[data-trace]").forEach(trace);
