// Sliders beside typed fields, and marks in a drawing that set a field: what is moved is written into the field, which asks the server.
export function slides(form) {
  for (const slider of form.querySelectorAll("[data-slide]")) {
    const field = form.elements[slider.dataset.slide];
    const quarters = slider.dataset.unit === "quarters";
    const speak = () => (field.value ? slider.setAttribute("aria-valuetext", field.value) : slider.removeAttribute("aria-valuetext"));
    const read = () => {
      const [top, bottom] = field.value.split("/").map(Number);
      const number = bottom ? top / bottom : Number.parseFloat(field.value);
      if (Number.isFinite(number)) slider.value = number;
      // A slider speaks what stands in its field: 5/4, not 1.25.
      speak();
    };
    slider.hidden = false;
    read();
    field.addEventListener("input", (event) => { if (event.isTrusted) read(); });
    slider.addEventListener("input", () => { field.value = quarters ? `${Math.round(slider.value * 4)}/4` : slider.value; speak(); });
  }
  // A complaint beside a field is about what stood there before.
  form.addEventListener("input", (event) => {
    event.target.closest(".field")?.querySelectorAll(".wrong").forEach((line) => line.remove());
    event.target.removeAttribute("aria-invalid");
  });
  // What the chosen place or method does not ask for is put away; what it asks for is not left folded up.
  const tidy = () => {
    const inside = form.dataset.indoors.split(" ").includes(form.elements.where.value);
    for (const part of form.querySelectorAll("[data-outdoors]"))
      part.hidden = inside || ("askedBy" in part.dataset && !part.dataset.askedBy.split(" ").includes(form.elements.by.value));
    for (const folded of form.querySelectorAll("details")) folded.open ||= !!folded.querySelector("[data-asked-by]:not([hidden])");
  };
  form.addEventListener("change", tidy);
  tidy();
  const narrow = matchMedia("(max-width: 60rem)");
  const measure = () => { form.elements.frame.value = narrow.matches ? "narrow" : "wide"; };
  narrow.addEventListener("change", () => { measure(); form.dispatchEvent(new Event("input", { bubbles: true })); });
  measure();
  const region = document.querySelector(`[data-region="${form.dataset.live}"]`);
  region.addEventListener("click", (event) => {
    const mark = event.target.closest("[data-set]");
    if (!mark) return;
    form.elements[mark.dataset.set].value = mark.dataset.value;
    form.dispatchEvent(new Event("input", { bubbles: true }));
    event.preventDefault();
  });
}
