// The formulas of wood/air/sorption.py and wood/movement/shrinkage.py for the phone without a network; a test holds both against each other.

// Wood Handbook (FPL-GTR-282) eq. 4-5: temperature in °C, humidity and moisture as fractions.
const constants = (t) => [
  349 + t * (1.29 + 0.0135 * t),
  0.805 + t * (0.000736 - 0.00000273 * t),
  6.27 - t * (0.00938 + 0.000303 * t),
  1.91 + t * (0.0407 - 0.000293 * t),
];

export function emc(t, h) {
  const [w, k, k1, k2] = constants(t);
  const kh = k * h, a = k1 * kh, b = a * kh * k2;
  return (18 / w) * (kh / (1 - kh) + (a + 2 * b) / (1 + a + b));
}

export function slope(t, h) {
  const [w, k, k1, k2] = constants(t);
  const kh = k * h, a1 = k1 * kh, b2 = k1 * k2 * kh * kh;
  const top = a1 + 2 * b2, bottom = 1 + a1 + b2;
  const da1 = k1 * k, db2 = 2 * k1 * k2 * k * kh;
  return (18 / w) * (k / (1 - kh) ** 2 + ((da1 + 2 * db2) * bottom - top * (da1 + db2)) / bottom ** 2);
}

// What wood comes to in air as an instrument shows it, and what its tolerance and half a degree of the thermometer are worth.
export function measured(t, h, humidityTolerance = 0.03, temperatureTolerance = 0.5) {
  const meant = emc(t, h);
  const warmer = emc(Math.min(t + temperatureTolerance, HOTTEST_C), h);
  return { emc: meant, tolerance: Math.hypot(slope(t, h) * humidityTolerance, warmer - meant), extrapolated: t < FITTED_C[0] || t > FITTED_C[1] };
}

export const COLDEST_C = -40, HOTTEST_C = 132, FITTED_C = [-1, 132];

// What is left of the green size at a moisture, and how a size changes from one moisture to another.
const remaining = (shrinkage, moisture, saturation) => 1 - (shrinkage * (saturation - Math.min(moisture, saturation))) / saturation;
export const sizeRatio = (shrinkage, from, to, saturation) => remaining(shrinkage, to, saturation) / remaining(shrinkage, from, saturation);
