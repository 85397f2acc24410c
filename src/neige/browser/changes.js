// What of the page may look otherwise than when this was last asked, after its rules have been exchanged and nothing else:
// `rows`, a list of [top, bottom] in page px, and `shift`, [from, by]: what is below `from` is what was there, moved down by whole px
// (null: nothing moved so). null altogether: perhaps everything.
//
// An element's rows count, as they were and as they are, if a rule that was changed is or was about it or what it is in, or if it has
// moved otherwise than all that moved. What only grew at its end counts where it grew, if it paints nothing but a plain ground.
() => {
  const REACH = 8; // px by which letters and lines may stand out of their boxes
  const FAR = /backdrop-filter|mix-blend|mask|counter|position: (?:fixed|sticky)/; // what paints where its own box is not
  const element = document.getElementById('rules');
  const all = [document.body, ...document.body.querySelectorAll('*')];
  const LAYOUT = /^(?:padding|margin|gap|row-gap|column-gap|(?:min-|max-)?(?:inline-size|block-size|width|height)|inset|top|left|right|bottom|grid|flex|align|justify|order)/;
  const range = document.createRange();

  // rules as they are: selector (null for one that is no plain rule), text, what it says, and its custom properties
  const rules = [];
  for (const rule of element.sheet.cssRules) {
    if (rule instanceof CSSMediaRule && !matchMedia(rule.media.mediaText).matches) continue;
    const custom = {}, layout = [], paint = [];
    for (const name of rule.style || []) {
      const value = rule.style.getPropertyValue(name);
      if (name.startsWith('--')) custom[name] = value;
      else (LAYOUT.test(name) ? layout : paint).push(name + value + rule.style.getPropertyPriority(name));
    }
    rules.push({ selector: rule.selectorText || null, text: rule.cssText, layout: layout.join(';'), paint: paint.join(';'), custom });
  }
  const shade = (s) => [s.boxShadow, s.textShadow, s.filter].flatMap((v) => (v === 'none' ? [] : v.match(/[\d.]+px/g) || [])).reduce((n, v) => n + parseFloat(v), 0);
  const boxes = all.map((e) => {
    const r = e.getBoundingClientRect(), s = getComputedStyle(e);
    const outline = s.outlineStyle === 'none' ? 0 : parseFloat(s.outlineWidth) + Math.abs(parseFloat(s.outlineOffset));
    return [r.left + scrollX, r.top + scrollY, r.right + scrollX, r.bottom + scrollY, REACH + shade(s) + outline];
  });
  const texts = [], owners = [], index = new Map(all.map((e, i) => [e, i]));
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let n = walker.nextNode(); n; n = walker.nextNode()) {
    if (!n.data.trim()) continue;
    range.selectNodeContents(n);
    texts.push([...range.getClientRects()].map((r) => [r.left + scrollX, r.top + scrollY, r.right + scrollX, r.bottom + scrollY, REACH + r.height / 4]));
    owners.push(index.get(n.parentElement));
  }
  const before = globalThis.neigeSeen;
  globalThis.neigeSeen = { rules, boxes, texts, all };
  if (!before || before.all[0] !== all[0] || before.boxes.length !== boxes.length || before.texts.length !== texts.length) return null;
  if (before.rules.length !== rules.length || FAR.test(element.textContent)) return null;

  const selectors = new Set(), properties = new Set(), placed = new Set(); // of `placed` ones nothing but where things are was changed
  const changed = (rule) => rule.selector !== null && selectors.add(rule.selector);
  for (let i = 0; i < rules.length; i++) {
    const a = before.rules[i], b = rules[i];
    if (a.text === b.text) continue;
    if (a.selector === null || b.selector === null) return null;
    for (const name of Object.keys({ ...a.custom, ...b.custom })) if (a.custom[name] !== b.custom[name]) properties.add(name);
    if (a.paint !== b.paint || a.selector !== b.selector) changed(a) && changed(b);
    else if (a.layout !== b.layout) (/:/.test(a.selector) ? selectors : placed).add(a.selector);
  }
  for (const name of properties) { // a set that grows while it is gone through
    for (const rule of [...before.rules, ...rules]) {
      if (!rule.text.includes(`var(${name}`)) continue;
      if (!changed(rule)) return null;
      for (const [other, value] of Object.entries(rule.custom)) if (value.includes(`var(${name}`)) properties.add(other);
    }
  }
  const made = (e) => ['::before', '::after'].some((v) => getComputedStyle(e, v).content !== 'none'); // parts that have no box here
  const about = new Uint8Array(all.length);
  for (const selector of [...selectors, ...placed]) {
    let found;
    try {
      found = document.querySelectorAll(selector.replace(/::?(?:before|after|marker|placeholder|first-letter|first-line)\b/g, ''));
    } catch {
      return null;
    }
    for (const e of found) {
      const first = index.get(e);
      if (!selectors.has(selector)) {
        if (/^(?:IMG|SVG|INPUT|SELECT|TEXTAREA|HR|VIDEO|CANVAS|PROGRESS|METER)$/i.test(e.tagName) || made(e)) about[first] = 1;
        continue;
      }
      if (!first) return null; // the body, or what it is in
      for (let i = first, n = i + e.querySelectorAll('*').length; i <= n; i++) about[i] = 1;
    }
  }

  const unpainted = (s) => s.backgroundImage === 'none' && s.boxShadow === 'none' && s.filter === 'none' && s.outlineStyle === 'none' && s.clipPath === 'none' &&
    ['Top', 'Right', 'Bottom', 'Left'].every((v) => s[`border${v}Style`] === 'none' || s[`border${v}Width`] === '0px') &&
    parseFloat(s.borderBottomLeftRadius) === 0 && parseFloat(s.borderBottomRightRadius) === 0;
  // a ground that goes on as it is, however far it reaches down
  const ground = (e) => unpainted(getComputedStyle(e)) && e.firstElementChild && !made(e);
  const same = (a, b) => a[0] === b[0] && a[2] === b[2];
  const still = (a, b) => same(a, b) && a[1] === b[1] && a[3] === b[3];
  const other = [], moved = [], unmoved = [], grown = []; // [as it was, as it is]
  const sort = (a, b, counts, grows) => {
    const by = b[1] - a[1];
    if (counts) other.push([a, b]);
    else if (still(a, b)) unmoved.push(b);
    else if (same(a, b) && by !== 0 && Math.abs(b[3] - a[3] - by) < 1e-3) moved.push([a, b]);
    else if (same(a, b) && by === 0 && grows()) grown.push([a, b]);
    else other.push([a, b]);
  };
  for (let i = 0; i < all.length; i++) {
    const a = before.boxes[i], b = boxes[i];
    // what paints nothing by itself need not stay where it was: only what is in it does
    if (!about[i] && still(a, b) && all[i].firstElementChild && getComputedStyle(all[i]).overflowY === 'visible' && /, 0\)$|^transparent$/.test(getComputedStyle(all[i]).backgroundColor) && ground(all[i])) continue;
    sort(a, b, about[i], () => ground(all[i]));
  }
  for (let i = 0; i < texts.length; i++) {
    const a = before.texts[i], b = texts[i];
    if (a.length !== b.length) [...a, ...b].forEach((r) => other.push([r, r]));
    else a.forEach((r, j) => sort(r, b[j], about[owners[i]], () => false));
  }
  const rows = [];
  const put = (r, by = 0) => r[3] > r[1] && rows.push([r[1] + by - r[4], r[3] + by + r[4]]);
  let shift = null;
  if (moved.length) {
    const by = moved[0][1][1] - moved[0][0][1], top = Math.min(...moved.map(([a]) => a[1]));
    const from = Math.max(...moved.filter(([a]) => a[1] === top).map(([a]) => a[4])) + top;
    const together = Math.abs(by - Math.round(by)) < 1e-3 && moved.every(([a, b]) => Math.abs(b[1] - a[1] - by) < 1e-3 && a[1] - a[4] >= top - from + top);
    const apart = unmoved.every((r) => r[3] + r[4] <= Math.min(from, from + by)) && grown.every(([a, b]) => Math.abs(b[3] - a[3] - by) < 1e-3 || Math.max(a[3], b[3]) + REACH <= Math.min(from, from + by));
    if (together && apart) {
      shift = [from + by, Math.round(by)];
      rows.push([Math.min(top, top + by) - (from - top), Math.max(from, from + by)]);
    } else for (const [a, b] of moved) put(a), put(b);
  }
  for (const [a, b] of other) {
    put(a);
    put(b);
    if (shift) put(a, shift[1]);
  }
  for (const [a, b] of grown) if (!shift || Math.abs(b[3] - a[3] - shift[1]) > 1e-3) rows.push([Math.min(a[3], b[3]) - REACH, Math.max(a[3], b[3]) + REACH]);
  return { rows, shift };
}
