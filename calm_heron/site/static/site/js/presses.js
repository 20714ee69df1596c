// Presses of a key count from each other, not from the answer that is still on its way: gives what they have come to so far, and, once so
// many milliseconds have passed since the last, what `shown` reads off the page.
export function presses(settled, shown) {
  let sofar = null;
  let last = -Infinity;
  return (...seen) => {
    if (performance.now() - last > settled) sofar = shown(...seen);
    last = performance.now();
    return sofar;
  };
}
