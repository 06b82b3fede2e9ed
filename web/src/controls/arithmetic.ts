/** Numbers as people type them: "1.5", "1,5", "1,000", "24*2", "(100-20)/3". */

/** The value of a simple arithmetic expression, or null when it is not one. Never evaluates code. */
export function evaluate(text: string): number | null {
  const source = text
    .replaceAll(/\s+/g, "")
    .replaceAll(/(?<![\d.])[1-9]\d{0,2}(?:,\d{3})+(?![\d,])/g, (thousands) => thousands.replaceAll(",", ""))
    .replaceAll(",", ".");
  let at = 0;

  const sum = (): number => {
    let value = product();
    while (source[at] === "+" || source[at] === "-")
      value = source[at++] === "+" ? value + product() : value - product();
    return value;
  };
  const product = (): number => {
    let value = factor();
    while (source[at] === "*" || source[at] === "/")
      value = source[at++] === "*" ? value * factor() : value / factor();
    return value;
  };
  const factor = (): number => {
    if (source[at] === "-") {
      at++;
      return -factor();
    }
    if (source[at] === "(") {
      at++;
      const value = sum();
      if (source[at++] !== ")") return Number.NaN;
      return value;
    }
    const match = /^(\d+\.?\d*|\.\d+)(e[+-]?\d+)?/i.exec(source.slice(at));
    if (!match) return Number.NaN;
    at += match[0].length;
    return Number(match[0]);
  };

  if (!source) return null;
  const value = sum();
  return at === source.length && Number.isFinite(value) ? value : null;
}

/** A number as a control shows it: as many digits as its step needs. */
export function shown(value: number, step: number): string {
  const digits = Math.min(Math.max(Math.ceil(-Math.log10(step)), 0), 6);
  return Number(value.toFixed(digits)).toString();
}
