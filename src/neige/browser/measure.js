// What is drawn, in page px: boxes of the elements named by `paths` (child indices from body), and every word with its type.
// Returned as one JSON string: that crosses to Python many times faster than an object.
(paths) => {
  const nodes = [], words = [], owner = new Map();
  for (const [id, path] of paths) {
    let e = document.body;
    for (const i of path) e = e && e.children[i];
    if (!e) continue;
    const r = e.getBoundingClientRect();
    nodes.push([id, r.left + scrollX, r.top + scrollY, r.width, r.height]);
    owner.set(e, id);
  }
  const visible = (e) => {
    const s = getComputedStyle(e);
    return s.visibility === 'visible' && s.display !== 'none' && parseFloat(s.opacity) > 0.03 ? s : null;
  };
  const idOf = (e) => { for (; e; e = e.parentElement) if (owner.has(e)) return owner.get(e); return -1; };
  const range = document.createRange();
  const put = (text, r, s, e) => words.push([text, r.left + scrollX, r.top + scrollY, r.width, r.height, parseFloat(s.fontSize), +s.fontWeight || 400, s.fontFamily, s.color, idOf(e)]);
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let n = walker.nextNode(); n; n = walker.nextNode()) {
    const e = n.parentElement;
    if (/^(SCRIPT|STYLE|NOSCRIPT|OPTION|TEMPLATE)$/.test(e.tagName)) continue;
    let s = null;
    for (const m of n.data.matchAll(/[^\s\u00a0]+/g)) {
      s = s || visible(e);
      if (!s) break;
      range.setStart(n, m.index);
      range.setEnd(n, m.index + m[0].length);
      const rs = [...range.getClientRects()].filter((r) => r.width > 0);
      if (!rs.length) continue;
      const text = s.textTransform === 'uppercase' ? m[0].toUpperCase() : m[0];
      put(text, rs[0], s, e);
    }
  }
  // what is painted: fill, border, radius, shadow, or a picture
  const boxes = [];
  const clear = (c) => /^rgba\(.*, 0\)$/.test(c) || c === 'transparent';
  const behind = /url\(/.test(getComputedStyle(document.body).backgroundImage) ? [document.body] : []; // a photo behind the page
  for (const e of [...behind, ...document.body.querySelectorAll('*')]) {
    const s = visible(e), r = s && e.getBoundingClientRect();
    if (!s || r.width < 4 || r.height < 4) continue;
    const sides = ['Top', 'Right', 'Bottom', 'Left'];
    const own = s.backgroundImage === 'none' && s.backgroundColor; // a border in the box's own colour does not show
    const border = sides.map((v) => (/none|hidden/.test(s[`border${v}Style`]) || clear(s[`border${v}Color`]) || s[`border${v}Color`] === own ? 0 : parseFloat(s[`border${v}Width`])));
    const picture = /^(IMG|SVG|CANVAS|VIDEO|PICTURE)$/i.test(e.tagName) || /url\(/.test(s.backgroundImage);
    const fill = e !== document.body && (!clear(s.backgroundColor) || s.backgroundImage !== 'none');
    const shadow = s.boxShadow !== 'none';
    if (!fill && !picture && !shadow && border.every((v) => !v)) continue;
    const corner = s.borderTopLeftRadius, half = Math.min(r.width, r.height) / 2;
    const radius = Math.min(half, /%/.test(corner) ? (parseFloat(corner) / 100) * r.width : parseFloat(corner) || 0);
    boxes.push([r.left + scrollX, r.top + scrollY, r.width, r.height, radius, border, shadow, picture, fill, idOf(e)]);
  }
  const pen = document.createElement('canvas').getContext('2d');
  for (const e of document.querySelectorAll('input, textarea')) {
    const text = e.value || e.placeholder, s = text && visible(e);
    if (!s || /^(checkbox|radio|hidden|password)$/.test(e.type)) continue;
    const r = e.getBoundingClientRect(), size = parseFloat(s.fontSize), h = size * 1.17;
    pen.font = `${s.fontStyle} ${s.fontWeight} ${s.fontSize} ${s.fontFamily}`;
    const left = r.left + parseFloat(s.borderLeftWidth) + parseFloat(s.paddingLeft);
    for (const m of text.matchAll(/\S+/g)) {
      const x = pen.measureText(text.slice(0, m.index)).width;
      put(m[0], { left: left + x, top: r.top + (r.height - h) / 2, width: pen.measureText(m[0]).width, height: h }, e.value ? s : getComputedStyle(e, '::placeholder'), e);
    }
  }
  // a page shorter than its window scrolls nowhere: then its height is where its body ends
  const root = document.documentElement, end = Math.round(document.body.getBoundingClientRect().bottom + scrollY);
  const full = Math.max(root.scrollHeight, document.body.scrollHeight);
  const height = full <= innerHeight && end > 0 ? Math.min(full, end) : full;
  return JSON.stringify({ nodes, words, boxes, height, scrollWidth: root.scrollWidth });
}
