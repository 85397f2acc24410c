import { describe, expect, it } from "vitest";
import { declarations, isValue, kitFor, setDeclaration, snapped } from "$lib/css";

const CSS = `:root {
  --color-accent: #0b5cad;
  --gutter: 1rem;
}

.station-card {
  margin-block-start: 1.4375rem;
  padding: 1.5rem;
  color: var(--color-accent);
}

.station-card__title {
  margin-block-start: 1.5rem;
}

@media (width <= 48rem) {
  .station-card {
    padding: 1rem;
  }
}
`;

describe("a declaration", () => {
  const [margin] = declarations(".station-card", ["margin-block-start: 1.4375rem;"]);

  it("is set in its own rule and nowhere else", () => {
    const after = setDeclaration(CSS, margin!, "1.5rem")!;
    expect(after).toContain(".station-card {\n  margin-block-start: 1.5rem;\n  padding: 1.5rem;");
    expect(after.length).toBe(CSS.length - "1.4375".length + "1.5".length);
  });

  it("that is no longer there changes nothing", () => {
    expect(setDeclaration(CSS, { ...margin!, value: "9rem" }, "1rem")).toBeUndefined();
    expect(setDeclaration(CSS, { ...margin!, selector: ".other" }, "1rem")).toBeUndefined();
  });

  it("takes no value that would end its rule", () => {
    expect(isValue("1rem; } body { display: none")).toBe(false);
    expect(isValue(" ")).toBe(false);
    expect(isValue("calc(100% - 2rem)")).toBe(true);
  });
});

describe("the kit", () => {
  it("offers the page's colours for colours and its lengths for lengths", () => {
    expect(kitFor(CSS, "color")).toEqual(["var(--color-accent)"]);
    expect(kitFor(CSS, "margin-block-start")).toContain("1.5rem");
  });

  it("is what a length that nearly is one of its values snaps to", () => {
    expect(snapped("1.4375rem", ["1.5rem"])).toBe("1.5rem");
    expect(snapped("1.5rem", ["1.5rem"])).toBeUndefined();
    expect(snapped("3.05rem", [])).toBe("3rem");
    expect(snapped("auto", ["1rem"])).toBeUndefined();
  });
});
