/** A page's style sheet as text: its kit of values, and one declaration set to another value. */

export type Declaration = { selector: string; name: string; value: string };

/** Turn the lines of a rule into declarations. */
export const declarations = (selector: string, body: string[]): Declaration[] =>
  body.flatMap((line) => {
    const at = line.indexOf(":");
    return at < 0
      ? []
      : [
          {
            selector,
            name: line.slice(0, at).trim(),
            value: line
              .slice(at + 1)
              .trim()
              .replace(/;$/, ""),
          },
        ];
  });

/** The style sheet with one declaration's value changed, outside the queries for small screens; undefined if it is not there. */
export function setDeclaration(css: string, of: Declaration, value: string): string | undefined {
  const head = `\n${of.selector} {\n`;
  const start = css.startsWith(head.slice(1)) ? 0 : css.indexOf(head) + 1;
  if (start === 0 && !css.startsWith(head.slice(1))) return undefined;
  const end = css.indexOf("\n}", start);
  const rule = css.slice(start, end);
  const line = `  ${of.name}: ${of.value};`;
  const at = rule.indexOf(`\n${line}`);
  if (end < 0 || at < 0) return undefined;
  const from = start + at + 1;
  return `${css.slice(0, from)}  ${of.name}: ${value};${css.slice(from + line.length)}`;
}

/** Is a value one that a declaration may have: nothing that ends it or begins another rule? */
export const isValue = (value: string): boolean => value.trim() !== "" && !/[{};@<]/.test(value);

const LENGTH = /^(-?[\d.]+)rem$/;

/** The values of a page's kit for a property, the commonest first: its custom colours, or lengths used more than once. */
export function kitFor(css: string, name: string): string[] {
  if (/color|background$|fill/.test(name))
    return [...css.matchAll(/^\s+(--[\w-]+): (?:#|rgb)/gm)].map((m) => `var(${m[1]})`);
  const family = name.replace(/-(block|inline)(-(start|end))?$/, "");
  const counts = new Map<string, number>();
  for (const [, property, value] of css.matchAll(/^\s+([\w-]+): ([^;]+);/gm))
    if (property!.startsWith(family)) counts.set(value!, (counts.get(value!) ?? 0) + 1);
  return [...counts]
    .filter(([value, n]) => n > 1 || LENGTH.test(value))
    .sort((a, b) => b[1] - a[1])
    .slice(0, 24)
    .map(([value]) => value);
}

const STEP = 0.25; // rem: what a length snaps to when no value of the kit is near
const NEAR = 0.2; // of itself, or a quarter of a rem

/** The value of the kit that a length nearly is, or the nearest quarter of a rem; undefined if it is one already. */
export function snapped(value: string, kit: string[]): string | undefined {
  const found = LENGTH.exec(value);
  if (!found) return undefined;
  const length = Number(found[1]);
  const others = kit.flatMap((k) => {
    const m = LENGTH.exec(k);
    const v = m ? Number(m[1]) : NaN;
    return m && v !== length && Math.abs(v / STEP - Math.round(v / STEP)) < 1e-6 ? [v] : [];
  });
  const nearest = others.sort((a, b) => Math.abs(a - length) - Math.abs(b - length))[0];
  if (nearest !== undefined && Math.abs(nearest - length) <= Math.max(STEP, NEAR * Math.abs(length)) / 2)
    return `${nearest}rem`;
  const round = Math.round(length / STEP) * STEP;
  return round === length || round === 0 ? undefined : `${round}rem`;
}
