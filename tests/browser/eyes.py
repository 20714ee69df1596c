"""What eyes and thumbs meet on a page, asked of the page itself: targets too small, text too fine, too far out, cut off, one over
another or under a line, links whose underline nobody sees. Each is the source of a function that gives what is wrong;
``seen`` asks them all.
"""

from playwright.sync_api import Page

LEAST_TARGET, LEAST_TEXT, MOST_SHIFT = 24, 11, 0.05
# Targets in a line of text are as high as the line; everything else is at least so large, or has so much room about it.
TARGETS = """least => {
  const seen = (one) => { const r = one.getBoundingClientRect(); const s = getComputedStyle(one);
    return r.width > 1 && r.height > 1 && s.visibility !== 'hidden' && !one.closest('[hidden]'); };
  const all = [...document.querySelectorAll("a[href], button, select, summary, textarea, input:not([type=hidden])")].filter(seen);
  const boxes = all.map((one) => {
    const label = one.matches("[type=checkbox], [type=radio]") ? one.closest("label") : null;
    return (label ?? one).getBoundingClientRect();
  });
  const inSentence = (one) => getComputedStyle(one).display.startsWith("inline") && !(one instanceof SVGElement)
    && (one.closest("p, li, td, th, dd, .hint, caption, div")?.textContent.trim().length ?? 0) > one.textContent.trim().length + 2;
  const centre = (box) => [box.x + box.width / 2, box.y + box.height / 2];
  return all.filter((one, k) => {
    const box = boxes[k];
    if ((box.width >= least - 0.5 && box.height >= least - 0.5) || inSentence(one)) return false;
    const [x, y] = centre(box);
    return boxes.some((other, n) => n !== k && !all[n].contains(one) && !one.contains(all[n]) && (() => {
      const dx = Math.max(other.left - x, 0, x - other.right), dy = Math.max(other.top - y, 0, y - other.bottom);
      return Math.hypot(dx, dy) < least / 2;
    })());
  }).map((one) => { const box = boxes[all.indexOf(one)];
    return `${one.tagName} ${(one.textContent || one.name || "").trim().slice(0, 30)} `
      + `${Math.round(box.width)}×${Math.round(box.height)}`; });
}"""
TEXTS = """least => [...document.querySelectorAll("body *")].filter((one) => {
  if (![...one.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim())) return false;
  const box = one.getBoundingClientRect();
  if (box.width < 2 || box.height < 2 || one.closest("script, style, title, [hidden], .sr-only")) return false;
  const scale = one instanceof SVGElement && one.getScreenCTM ? Math.hypot(one.getScreenCTM().a, one.getScreenCTM().b) : 1;
  return parseFloat(getComputedStyle(one).fontSize) * scale < least - 0.05;
}).map((one) => `${one.tagName} ${one.textContent.trim().slice(0, 20)}`).slice(0, 4)"""
# How far what is on a page jumps while it comes, and how much wider than the screen it is.
SHIFT = """new Promise((done) => { let sum = 0;
  new PerformanceObserver((list) => { for (const one of list.getEntries()) if (!one.hadRecentInput) sum += one.value; })
    .observe({type: "layout-shift", buffered: true});
  setTimeout(() => done(sum), 250); })"""
WIDER = "() => document.documentElement.scrollWidth - innerWidth"
# Words over words, and words that are cut off, by their own drawing, by what holds them or by the edge of the screen. Turned words are left
# out: their boxes are larger than they are.
WORDS = r"""() => {
  const seen = (one) => one.checkVisibility?.({ opacityProperty: true, visibilityProperty: true }) ?? true;
  const skip = "script, style, title, [hidden], .sr-only, .skip, option, textarea, noscript, dialog:not([open])";
  const runs = [];
  const holder = (one, is) => {
    for (let e = one; e && e !== document.body; e = e.parentElement) if (is(getComputedStyle(e))) return e;
    return null;
  };
  const fixed = (one) => holder(one, (style) => ["fixed", "sticky"].includes(style.position));
  const scrolls = (one) => holder(one, (style) => ["auto", "scroll"].includes(style.overflowX) || style.textOverflow === "ellipsis");
  const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walk.nextNode()) {
    const node = walk.currentNode, one = node.parentElement;
    if (!node.textContent.trim() || one.closest(skip) || !seen(one)) continue;
    const range = document.createRange(); range.selectNodeContents(node);
    const m = one.getScreenCTM?.();
    if (m && Math.abs(m.b) > 0.01) continue;
    const within = scrolls(one)?.getBoundingClientRect();
    for (const whole of range.getClientRects()) {
      // What is scrolled out of sight, or ends in …, lies on nothing.
      const [left, right] = within ? [Math.max(whole.left, within.left), Math.min(whole.right, within.right)] : [whole.left, whole.right];
      const box = new DOMRect(left, whole.top, right - left, whole.height);
      if (box.width > 2 && box.height > 2) runs.push({ one, box, text: node.textContent.trim().slice(0, 24), svg: one.closest("svg") });
    }
  }
  const found = [];
  const name = (r) => `“${r.text}”`;
  for (let i = 0; i < runs.length; i++) for (let j = i + 1; j < runs.length; j++) {
    const a = runs[i], b = runs[j];
    if (a.one === b.one) continue;
    const w = Math.min(a.box.right, b.box.right) - Math.max(a.box.left, b.box.left);
    const h = Math.min(a.box.bottom, b.box.bottom) - Math.max(a.box.top, b.box.top);
    if (w > 1.5 && h > 0.35 * Math.min(a.box.height, b.box.height) && fixed(a.one) === fixed(b.one)) {
      found.push(`over: ${name(a)} ${name(b)} ${Math.round(w)}×${Math.round(h)}`);
    }
  }
  for (const r of runs) {
    const { left, right, top, bottom } = r.box;
    if ((right > innerWidth + 1 || left < -1) && right > 0 && !scrolls(r.one)) found.push(`off the page: ${name(r)}`);
    if (r.svg && getComputedStyle(r.svg).overflow !== "visible") {
      const s = r.svg.getBoundingClientRect();
      if (left < s.left - 1 || right > s.right + 1 || top < s.top - 2 || bottom > s.bottom + 2) found.push(`cut off: ${name(r)}`);
    }
    for (let e = r.one; e && e !== document.body; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (e instanceof SVGElement || style.overflowX === "visible") continue;
      if (e === scrolls(r.one)) break;
      const box = e.getBoundingClientRect();
      if (box.width <= 2 || box.height <= 2) break;
      if (right > box.right + 1.5 || left < box.left - 1.5) { found.push(`clipped: ${name(r)}`); break; }
    }
  }
  return found;
}"""
# Words of a drawing that a line runs through, where no halo parts them.
CROSSED = r"""() => {
  const found = [];
  for (const svg of document.querySelectorAll("main svg")) {
    if (!svg.checkVisibility()) continue;
    const hasHalo = (style) => style.paintOrder.startsWith("stroke") && style.stroke !== "none";
    const texts = [...svg.querySelectorAll("text")]
      .filter((t) => t.textContent.trim() && t.checkVisibility() && !hasHalo(getComputedStyle(t)))
      .map((t) => ({ t, box: t.getBoundingClientRect() }));
    if (!texts.length) continue;
    for (const line of svg.querySelectorAll("path, line, polyline, polygon, rect, circle")) {
      const style = getComputedStyle(line);
      if (style.stroke === "none" || parseFloat(style.strokeOpacity) * parseFloat(style.opacity) < 0.4 || !line.checkVisibility()) continue;
      let length; try { length = line.getTotalLength(); } catch { continue; }
      const m = line.getScreenCTM(); if (!m || !length) continue;
      const step = Math.max(length / 4000, 1.5 / Math.hypot(m.a, m.b));
      const hit = new Set();
      // Inked words have ground of their own, which hides what was drawn before them.
      const under = (t) => t.matches(".inked") && line.compareDocumentPosition(t) & Node.DOCUMENT_POSITION_FOLLOWING;
      for (let s = 0; s <= length; s += step) {
        const p = line.getPointAtLength(s), x = m.a * p.x + m.c * p.y + m.e, y = m.b * p.x + m.d * p.y + m.f;
        for (const r of texts) {
          if (under(r.t)) continue;
          const { left, right, top, bottom, height } = r.box;
          if (x > left + 1 && x < right - 1 && y > top + 0.22 * height && y < bottom - 0.25 * height) hit.add(r);
        }
      }
      for (const r of hit) found.push(`${r.t.textContent.trim().slice(0, 20)} crossed by ${line.tagName}.${line.getAttribute("class")}`);
    }
  }
  return [...new Set(found)];
}"""
LEAST_UNDERLINE = 3.0
# Underlines of links by their contrast with what they are on.
UNDERLINES = r"""least => {
  const canvas = document.createElement("canvas").getContext("2d", {willReadFrequently: true});
  const rgba = (colour) => { canvas.clearRect(0, 0, 1, 1); canvas.fillStyle = colour; canvas.fillRect(0, 0, 1, 1);
    return canvas.getImageData(0, 0, 1, 1).data; };
  const light = (colour) => { const [r, g, b] = [...rgba(colour)].slice(0, 3).map((v) => {
    v /= 255; return v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4; });
    return 0.2126 * r + 0.7152 * g + 0.0722 * b; };
  const behind = (one) => { for (let e = one; e; e = e.parentElement) {
    const back = getComputedStyle(e).backgroundColor; if (rgba(back)[3] > 200) return back; } return "white"; };
  return [...document.querySelectorAll("a[href], button, summary")].filter((one) => {
    const style = getComputedStyle(one);
    if (!one.checkVisibility() || !style.textDecorationLine.includes("underline")) return false;
    const [a, b] = [light(style.textDecorationColor), light(behind(one))].sort((x, y) => y - x);
    return (a + 0.05) / (b + 0.05) < least - 0.005;
  }).map((one) => one.textContent.trim().slice(0, 30));
}"""


def seen(page: Page) -> dict[str, list[str]]:
    """What is wrong to the eye and the thumb with a page as it stands, by what is looked for."""
    wider = page.evaluate(WIDER)
    return {
        "scrolls sideways": [f"{wider} wider"] if wider > 0 else [],
        "targets": page.evaluate(TARGETS, LEAST_TARGET),
        "texts": page.evaluate(TEXTS, LEAST_TEXT),
        "words": page.evaluate(WORDS),
        "crossed": page.evaluate(CROSSED),
        "underlines": page.evaluate(UNDERLINES, LEAST_UNDERLINE),
    }
