import { describe, expect, it } from "vitest";
import { ago, bytes, percent } from "$lib/format";
import { isLook, keepAnchor, LOOKS, stepZoom, ZOOMS } from "$lib/looks";

describe("zoom", () => {
  it("steps up and down through the same places", () => {
    expect(stepZoom(1, 1)).toBe(1.5);
    expect(stepZoom(1.5, -1)).toBe(1);
    expect(stepZoom(0.62, 1)).toBe(0.75);
  });

  it("stops at both ends", () => {
    expect(stepZoom(8, 1)).toBe(8);
    expect(stepZoom(ZOOMS[0], -1)).toBe(ZOOMS[0]);
  });

  it("keeps the anchored point in place", () => {
    const scroll = keepAnchor(100, 50, 1, 2);
    expect((scroll + 50) / 2).toBe(150);
  });
});

describe("looks", () => {
  it("have keys of their own", () => {
    expect(new Set(LOOKS.map((l) => l.key)).size).toBe(LOOKS.length);
  });

  it("are known by name only", () => {
    expect(isLook("seam")).toBe(true);
    expect(isLook("sideways")).toBe(false);
    expect(isLook(undefined)).toBe(false);
  });
});

describe("format", () => {
  it("never rounds an error away", () => {
    expect(percent(0.9999)).toBe("99.99 %");
    expect(percent(1)).toBe("100 %");
    expect(percent(0.5)).toBe("50.0 %");
  });

  it("says bytes in the unit that fits", () => {
    expect(bytes(999)).toBe("999 B");
    expect(bytes(20_480)).toBe("20.5 kB");
  });

  it("says how long ago", () => {
    const now = Date.parse("2026-01-02T12:00:00Z");
    expect(ago("2026-01-02T11:59:50Z", now)).toBe("just now");
    expect(ago("2026-01-02T10:00:00Z", now)).toBe("2 h ago");
    expect(ago("2026-01-01T10:00:00Z", now)).toBe("yesterday");
  });
});
