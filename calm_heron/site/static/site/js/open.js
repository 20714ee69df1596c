// A link whose page opens in its place: <a data-opens href="…"> shows the fragment “how” of that page after itself, and hides it again.
// Asked for a new tab, or where the server is away, it stays the link it is.
export function opens(link) {
  let shown = null;
  link.setAttribute("aria-expanded", "false");
  link.addEventListener("click", async (event) => {
    if (event.ctrlKey || event.metaKey || event.shiftKey || event.altKey) return;
    event.preventDefault();
    if (!shown) {
      let answer = null;
      try {
        answer = await fetch(`${link.href}?fragment=how`, { credentials: "same-origin" });
      } catch { /* said by the page that the link leads to */ }
      // Led elsewhere (to the door, once signed out) it is another page’s answer.
      if (!answer?.ok || answer.redirected) { location.assign(link.href); return; }
      shown = document.createElement("div");
      shown.hidden = true;
      shown.innerHTML = await answer.text();
      link.after(shown);
    }
    shown.hidden = !shown.hidden;
    link.setAttribute("aria-expanded", String(!shown.hidden));
  });
}
