const WHITE = [0.9505, 1, 1.089] as const;

/** CIELAB of daylight as a screen shows it, about: what lies outside its gamut is cut off. */
export function cssOf([lightness = 0, a = 0, b = 0]: readonly number[]): string {
  const y = (lightness + 16) / 116;
  const [X = 0, Y = 0, Z = 0] = [y + a / 500, y, y - b / 200].map(
    (f, at) => (f ** 3 > 216 / 24389 ? f ** 3 : (116 * f - 16) / (24389 / 27)) * (WHITE[at] ?? 1),
  );
  const linear = [
    3.2406 * X - 1.5372 * Y - 0.4986 * Z,
    -0.9689 * X + 1.8758 * Y + 0.0415 * Z,
    0.0557 * X - 0.204 * Y + 1.057 * Z,
  ];
  const shown = linear.map((one) => {
    const bounded = Math.min(Math.max(one, 0), 1);
    const bent = bounded > 0.0031308 ? 1.055 * bounded ** (1 / 2.4) - 0.055 : 12.92 * bounded;
    return Math.round(255 * bent);
  });
  return `rgb(${shown.join(", ")})`;
}
