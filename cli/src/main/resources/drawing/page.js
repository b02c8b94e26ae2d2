(function () {
  'use strict';
  const before = new Map();
  const after = new Map();
  const paths = [...document.querySelectorAll('path.line')];
  for (const path of paths) {
    path.dataset.d = path.getAttribute('d');
    push(after, path.dataset.from, path);
    push(before, path.dataset.to, path);
  }
  const rows = [...document.querySelectorAll('.row')];
  const told = document.getElementById('told');
  const sections = [...document.querySelectorAll('main section')];

  function push(map, key, value) {
    if (!map.has(key)) map.set(key, []);
    map.get(key).push(value);
  }

  function show(id) {
    const known = sections.some(section => section.id === id) ? id : sections[0].id;
    sections.forEach(section => section.classList.toggle('shown', section.id === known));
    fitWhatIsUntouched();
    document.querySelectorAll('nav a').forEach(link => link.setAttribute('aria-current', String(link.hash === '#' + known)));
  }

  function reached(start, lines, end) {
    const seen = new Set([start]);
    const open = [start];
    const crossed = [];
    while (open.length) {
      for (const path of lines.get(open.pop()) || []) {
        crossed.push(path);
        const next = path.dataset[end];
        if (!seen.has(next)) { seen.add(next); open.push(next); }
      }
    }
    seen.delete(start);
    return { ids: seen, crossed: crossed };
  }

  function clear() {
    document.querySelectorAll('.lit').forEach(each => each.classList.remove('lit'));
    document.querySelectorAll('.chosen').forEach(each => each.classList.remove('chosen'));
    document.querySelectorAll('.lighting').forEach(each => each.classList.remove('lighting'));
    told.classList.remove('shown');
  }

  function names(ids) {
    return [...ids].map(id => document.getElementById(id)).filter(each => each && each.dataset.full).map(each => each.dataset.full);
  }

  function light(row) {
    clear();
    const back = reached(row.id, before, 'from');
    const on = reached(row.id, after, 'to');
    row.classList.add('lit', 'chosen');
    for (const id of [...back.ids, ...on.ids]) document.getElementById(id).classList.add('lit');
    [...back.crossed, ...on.crossed].forEach(path => path.classList.add('lit'));
    row.ownerSVGElement.classList.add('lighting');
    const list = told.querySelector('dl');
    list.textContent = '';
    told.querySelector('h3').textContent = row.getAttribute('aria-label');
    say(list, 'comes from', names(back.ids));
    say(list, 'used by', names(on.ids));
    told.classList.add('shown');
  }

  function say(list, term, what) {
    if (!what.length) return;
    const name = document.createElement('dt');
    const text = document.createElement('dd');
    name.textContent = term;
    text.textContent = what.join(', ');
    list.append(name, text);
  }

  /** A column of the stars is lit where its ways are drawn. */
  function choose(row, searched = false) {
    const full = row.dataset.full;
    const inLineage = rows.find(each => each.dataset.full === full && each.closest('#lineage'));
    const target = row.closest('#stars') && inLineage ? inLineage : row;
    if (target.closest('section')) { show(target.closest('section').id); }
    const star = target.closest('details');
    if (star && !star.open) { star.open = true; fitWhatIsUntouched(); }
    open(target.closest('.box'));
    light(target);
    centre(target, searched);
    target.focus({ preventScroll: true });
  }

  /** Only the picture scrolls: what stands around it stays where it is. Whoever searched can read what was found. */
  function centre(row, searched) {
    const canvas = row.closest('.canvas');
    if (searched && scaleOf(canvas) < READABLE) zoom(canvas, 1 / scaleOf(canvas));
    const place = row.getBoundingClientRect();
    const frame = canvas.getBoundingClientRect();
    canvas.scrollBy(place.left + place.width / 2 - frame.left - frame.width / 2, place.top + place.height / 2 - frame.top - frame.height / 2);
  }

  const SMALLEST = 0.2;
  const LARGEST = 3;
  const READABLE = 0.75;
  const STEP = 1.25;
  const canvases = [...document.querySelectorAll('.canvas')].filter(canvas => canvas.querySelector('svg.diagram'));

  function sizeOf(canvas) {
    const box = canvas.querySelector('svg').viewBox.baseVal;
    return [box.width, box.height];
  }

  function scaleOf(canvas) { return Number(canvas.dataset.scale || 1); }

  /** A picture at a scale; what lies under a point of the frame, by default its middle, stays there. */
  function scale(canvas, to, x = canvas.clientWidth / 2, y = canvas.clientHeight / 2) {
    const now = Math.min(LARGEST, Math.max(SMALLEST, to));
    const by = now / scaleOf(canvas);
    const left = (canvas.scrollLeft + x) * by - x;
    const top = (canvas.scrollTop + y) * by - y;
    const [width, height] = sizeOf(canvas);
    const svg = canvas.querySelector('svg');
    svg.setAttribute('width', width * now);
    svg.setAttribute('height', height * now);
    canvas.dataset.scale = now;
    canvas.scrollTo(left, top);
  }

  /** All of it on the screen, and never larger than it was drawn. */
  function fit(canvas) {
    if (!canvas.clientWidth) return;
    const [width, height] = sizeOf(canvas);
    scale(canvas, 1);
    scale(canvas, Math.min(1, canvas.clientWidth / width, canvas.clientHeight / height));
    delete canvas.dataset.touched;
  }

  function zoom(canvas, by, x, y) {
    canvas.dataset.touched = '';
    scale(canvas, scaleOf(canvas) * by, x, y);
  }

  function fitWhatIsUntouched() { canvases.filter(canvas => !('touched' in canvas.dataset)).forEach(fit); }

  function button(text, label, work) {
    const made = document.createElement('button');
    made.type = 'button';
    made.textContent = text;
    made.setAttribute('aria-label', label);
    made.addEventListener('click', work);
    return made;
  }

  for (const canvas of canvases) {
    const tools = document.createElement('div');
    tools.className = 'tools';
    tools.append(
      button('−', 'Smaller', () => zoom(canvas, 1 / STEP)),
      button('fit', 'All of it', () => fit(canvas)),
      button('+', 'Larger', () => zoom(canvas, STEP)));
    canvas.before(tools);
    canvas.addEventListener('keydown', event => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === '+' || event.key === '=') zoom(canvas, STEP);
      else if (event.key === '-') zoom(canvas, 1 / STEP);
      else if (event.key === '0') fit(canvas);
      else return;
      event.preventDefault();
    });
    canvas.addEventListener('wheel', event => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      const frame = canvas.getBoundingClientRect();
      zoom(canvas, Math.exp(-event.deltaY / 400), event.clientX - frame.left, event.clientY - frame.top);
    }, { passive: false });
    const fingers = new Map();
    const apart = () => { const [one, other] = [...fingers.values()]; return Math.hypot(one.x - other.x, one.y - other.y); };
    canvas.addEventListener('pointerdown', event => {
      if (event.pointerType === 'mouse' && (event.button !== 0 || event.target.closest('.row, .head'))) return;
      fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      if (event.pointerType === 'mouse') { canvas.setPointerCapture(event.pointerId); canvas.classList.add('held'); }
    });
    canvas.addEventListener('pointermove', event => {
      const last = fingers.get(event.pointerId);
      if (!last) return;
      const before = fingers.size === 2 ? apart() : 0;
      fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      if (before) zoom(canvas, apart() / before);
      else if (event.pointerType === 'mouse') canvas.scrollBy(last.x - event.clientX, last.y - event.clientY);
    });
    for (const end of ['pointerup', 'pointercancel']) {
      canvas.addEventListener(end, event => { fingers.delete(event.pointerId); canvas.classList.remove('held'); });
    }
  }
  const stars = [...document.querySelectorAll('details.star')];
  stars.forEach(star => star.addEventListener('toggle', fitWhatIsUntouched));
  addEventListener('beforeprint', () => stars.forEach(star => { star.open = true; }));
  addEventListener('resize', fitWhatIsUntouched);

  function anchor(box, onTheRight) {
    return [Number(box.dataset.x) + (onTheRight ? Number(box.dataset.w) : 0), Number(box.dataset.y) + 17];
  }

  function boxOf(id) {
    const element = document.getElementById(id);
    return element.classList.contains('box') ? element : element.closest('.box');
  }

  function redraw(path) {
    const from = boxOf(path.dataset.from);
    const to = boxOf(path.dataset.to);
    const folded = from.classList.contains('folded') || to.classList.contains('folded');
    if (!folded) { path.setAttribute('d', path.dataset.d); return; }
    const ends = path.dataset.d.match(/-?[\d.]+ -?[\d.]+/g);
    const left = path.hasAttribute('data-leftwards') ? to : from;
    const right = left === from ? to : from;
    const start = left.classList.contains('folded') ? anchor(left, true) : ends[0].split(' ').map(Number);
    const end = right.classList.contains('folded') ? anchor(right, false) : ends[ends.length - 1].split(' ').map(Number);
    const half = Math.max(30, Math.abs(end[0] - start[0]) / 2);
    path.setAttribute('d', `M${start[0]} ${start[1]}C${start[0] + half} ${start[1]} ${end[0] - half} ${end[1]} ${end[0]} ${end[1]}`);
  }

  function fold(box, folded) {
    box.classList.toggle('folded', folded);
    box.querySelector('.head').setAttribute('aria-expanded', String(!folded));
    box.querySelectorAll('.frame, .second').forEach(frame => {
      if (!frame.dataset.h) frame.dataset.h = frame.getAttribute('height');
      frame.setAttribute('height', folded ? (frame.classList.contains('second') ? 42 : 34) : frame.dataset.h);
    });
    paths.filter(path => boxOf(path.dataset.from) === box || boxOf(path.dataset.to) === box).forEach(redraw);
  }

  function open(box) { if (box && box.classList.contains('folded')) fold(box, false); }

  document.querySelectorAll('.head').forEach(head => {
    const box = head.closest('.box');
    const star = stars.find(each => each.dataset.of === head.querySelector('.title').textContent);
    const unfold = () => { star.open = true; fitWhatIsUntouched(); star.scrollIntoView(); };
    const toggle = box.querySelector('.row') ? () => fold(box, !box.classList.contains('folded')) : star ? unfold : () => {};
    head.addEventListener('click', toggle);
    head.addEventListener('keydown', event => {
      if (event.key === 'Enter' || event.key === ' ') { event.preventDefault(); toggle(); }
      if (event.key === 'ArrowDown') { event.preventDefault(); const first = head.parentNode.querySelector('.row'); if (first) first.focus(); }
    });
  });
  rows.forEach(row => {
    row.addEventListener('click', () => choose(row));
    row.addEventListener('keydown', event => {
      if (event.key === 'Enter' || event.key === ' ') { event.preventDefault(); choose(row); }
      const next = event.key === 'ArrowDown' ? row.nextElementSibling : event.key === 'ArrowUp' ? row.previousElementSibling : null;
      if (next && next.focus && (next.classList.contains('row') || next.classList.contains('head'))) { event.preventDefault(); next.focus(); }
    });
  });
  document.addEventListener('keydown', event => { if (event.key === 'Escape') { clear(); found.textContent = ''; } });

  const find = document.getElementById('find');
  find.parentNode.hidden = !rows.length;
  const found = document.getElementById('found');
  find.addEventListener('input', () => {
    found.textContent = '';
    const wanted = find.value.trim().toLowerCase();
    if (!wanted) return;
    const seen = new Set();
    const hits = [];
    for (const row of rows) {
      for (const name of row.dataset.more ? row.dataset.more.split('\n') : [row.dataset.full]) {
        if (name.toLowerCase().includes(wanted) && !seen.has(name)) { seen.add(name); hits.push([name, row]); }
      }
    }
    for (const [name, row] of hits.slice(0, 30)) {
      const item = document.createElement('li');
      const button = document.createElement('button');
      button.textContent = name;
      button.addEventListener('click', () => { found.textContent = ''; choose(row, true); });
      item.append(button);
      found.append(item);
    }
    if (!hits.length) { const item = document.createElement('li'); item.textContent = 'no such column'; found.append(item); }
  });
  find.addEventListener('keydown', event => {
    if (event.key === 'Enter') { const first = found.querySelector('button'); if (first) first.click(); }
    if (event.key === 'ArrowDown') { const first = found.querySelector('button'); if (first) { event.preventDefault(); first.focus(); } }
  });

  document.getElementById('look').addEventListener('click', () => {
    const root = document.documentElement;
    const isDark = root.dataset.look ? root.dataset.look === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches;
    root.dataset.look = isDark ? 'light' : 'dark';
  });
  addEventListener('hashchange', () => show(location.hash.slice(1)));
  show(location.hash.slice(1));
}());
