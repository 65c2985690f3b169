'use strict';
(() => {
  const root = document.documentElement;
  const find = document.getElementById('find');
  const found = document.getElementById('found');
  const rows = Array.from(document.querySelectorAll('[data-row]'));
  let texts = null;
  let waiting = false;
  const filter = () => {
    waiting = false;
    texts = texts || rows.map(row => row.textContent.toLowerCase());
    const words = find.value.toLowerCase().split(/\s+/).filter(Boolean);
    let shown = 0;
    rows.forEach((row, at) => {
      const hit = words.every(word => texts[at].includes(word));
      if (row.hidden === hit) row.hidden = !hit;
      if (hit) shown += 1;
    });
    found.textContent = words.length ? shown + ' of ' + rows.length + ' rows' : '';
  };
  find.addEventListener('input', () => {
    if (!waiting) requestAnimationFrame(filter);
    waiting = true;
  });
  document.getElementById('theme').addEventListener('click', () => {
    const dark = root.dataset.theme ? root.dataset.theme === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches;
    root.dataset.theme = dark ? 'light' : 'dark';
  });
  // What a part of a map is stands below it, for those who cannot hover.
  const tell = event => {
    const part = event.target.closest && event.target.closest('svg [role=img]');
    const said = part && part.closest('.map') && part.closest('.map').querySelector('.said');
    if (said) said.textContent = part.querySelector('title').textContent;
  };
  document.addEventListener('focusin', tell);
  document.addEventListener('mouseover', tell);
  // Of very many networks the maps are drawn when they are looked at.
  const maps = document.getElementById('maps');
  let drawn = null;
  const node = (name, attributes, text) => {
    const made = document.createElementNS('http://www.w3.org/2000/svg', name);
    Object.entries(attributes).forEach(([key, value]) => made.setAttribute(key, value));
    if (text !== undefined) made.textContent = text;
    return made;
  };
  const part = (name, attributes, said) => {
    const made = node(name, { tabindex: 0, role: 'img', ...attributes });
    made.append(node('title', {}, said));
    return made;
  };
  const draw = ([net, segments, marks]) => {
    const label = document.createElement('p');
    label.className = 'net';
    label.textContent = net;
    const strip = node('svg', { class: 'strip', width: '100%', height: marks.length ? 40 : 26, role: 'group', 'aria-label': 'Map of ' + net });
    segments.forEach(([kind, x, width, , said]) => strip.append(part('rect', { class: kind, x: x + '%', y: 0, width: width + '%', height: 26 }, said)));
    segments.filter(segment => segment[3]).forEach(([, x, width, text]) =>
      strip.append(node('text', { class: 'over', x: x + width / 2 + '%', y: 17, 'text-anchor': 'middle', 'aria-hidden': true }, text)));
    marks.forEach(([kind, x, said]) => strip.append(kind === 'server'
      ? part('rect', { class: kind, x: x + '%', y: 29, width: 9, height: 9, transform: 'translate(-4.5 0)' }, said)
      : part('circle', { class: kind, cx: x + '%', cy: 34, r: 4.5 }, said)));
    return [label, strip];
  };
  if (maps) {
    const networks = Array.from(document.querySelectorAll('#networks details'));
    document.getElementById('networks').addEventListener('toggle', event => {
      const at = networks.indexOf(event.target);
      if (at < 0 || !event.target.open || event.target.querySelector('.map')) return;
      drawn = drawn || JSON.parse(maps.textContent);
      const map = document.createElement('div');
      map.className = 'map';
      const said = document.createElement('p');
      said.className = 'said';
      said.setAttribute('role', 'status');
      map.append(...drawn[at].flatMap(draw), said);
      event.target.querySelector('summary').after(map);
    }, true);
  }
  addEventListener('beforeprint', () => document.querySelectorAll('details').forEach(one => { one.open = true; }));
})();
