import type { ClientViewFacts } from '@pampero/contract';
import { HeightField } from '@pampero/core/client-view';
import { formatNumber } from '@pampero/core/wording';
import { byId, element } from './elements.js';
import { LandScene } from './land-scene.js';
import { Measuring, TOOLS, type ToolId } from './measuring.js';
import { readExtras, readFacts, readLand, readPicture } from './read-view.js';

/** A finger or mouse that moved less than this has tapped and not dragged. */
const TAP_PIXELS = 6;

// The words first: they are there before the land is unpacked.
const facts = readFacts();
showAbout(facts);
setTimeout(begin, 0);

function begin(): void {
  const view = readLand();
  const land = new HeightField(view.frame, view.heights);
  const canvas = byId<HTMLCanvasElement>('land-view');
  const labels: { button: HTMLButtonElement; at: readonly [number, number, number] }[] = [];
  let scene: LandScene;
  try {
    scene = new LandScene(canvas, view, facts, land, () => {
      document.body.dataset['drawn'] ??= String(Math.round(performance.now()));
      for (const { button, at } of labels) {
        const seen = scene.seenAt(at);
        button.hidden = !seen;
        if (seen) Object.assign(button.style, { left: `${seen[0]}px`, top: `${seen[1] - 6}px` });
      }
    });
  } catch {
    byId('wait').textContent = 'This browser cannot draw in three dimensions. Open the file with another browser.';
    return;
  }
  byId('wait').remove();
  for (const { words, at } of facts.places) {
    const button = element('button', { 'aria-expanded': 'false', title: 'Go there' }, words);
    button.addEventListener('click', () => {
      const isOpen = button.getAttribute('aria-expanded') === 'true';
      button.setAttribute('aria-expanded', String(!isOpen));
      if (!isOpen) scene.goTo(at);
    });
    labels.push({ button, at });
  }
  byId('labels').append(...labels.map(({ button }) => button));
  const measuring = new Measuring(scene, land, facts, view.base, view.frame.cell);
  showTools(measuring);
  takeTaps(canvas, scene, measuring);
  takeKeys(scene, measuring);
  // For who tests or scripts the page.
  Object.assign(window, { survey: { scene, land, measuring, view } });
  whenRead(() => {
    scene.lay(readExtras());
    showLayers(scene, land, view.base);
    document.body.dataset['laid'] = 'yes';
    if (!facts.hasPicture) return;
    void readPicture(scene.side).then((picture) => {
      if (!picture) return;
      scene.drape(picture);
      scene.showPicture(document.querySelector<HTMLInputElement>('#show-picture')?.checked ?? true);
      document.body.dataset['draped'] = 'yes';
    });
  });
}

/** Does something once all of the file is read and the land has been seen. */
function whenRead(work: () => void): void {
  const later = (): void => void requestAnimationFrame(() => setTimeout(work, 0));
  if (document.readyState === 'loading') document.addEventListener('DOMContentLoaded', later, { once: true });
  else later();
}

function showAbout({ title, words, madeAt, unit, system, remarks }: ClientViewFacts): void {
  document.title = title;
  byId('about').append(
    element('h1', {}, title),
    ...(words ? [element('p', {}, words)] : []),
    element(
      'details',
      {},
      element('summary', {}, 'About this survey'),
      element(
        'p',
        { class: 'soft' },
        `Made on ${madeAt}. Lengths and heights are in ${unit.name}. Coordinates: ${system}.`,
      ),
      ...remarks.map((remark) => element('p', { class: 'soft' }, remark)),
      element(
        'p',
        { class: 'soft' },
        'Drag to turn or move, pinch or scroll to come nearer. Keys: arrows turn, + and − come nearer and go away, Home shows everything.',
      ),
    ),
  );
}

function showTools(measuring: Measuring): void {
  const buttons = TOOLS.map(({ id, label }) =>
    element('button', { 'aria-pressed': String(id === 'look'), 'data-tool': id, onclick: () => choose(id) }, label),
  );
  const choose = (tool: ToolId): void => {
    measuring.choose(tool);
    for (const button of buttons) button.setAttribute('aria-pressed', String(button.dataset['tool'] === tool));
  };
  byId('tools').append(...buttons);
}

function showLayers(scene: LandScene, land: HeightField, base: number): void {
  const box = (
    id: string,
    label: string,
    isOn: boolean,
    set: (isOn: boolean) => void,
    colour?: string,
  ): HTMLElement => {
    const input = element('input', {
      type: 'checkbox',
      id,
      checked: isOn,
      onchange: (e) => set((e.target as HTMLInputElement).checked),
    });
    const swatch = colour === undefined ? [] : [element('span', { class: 'swatch', style: `background:${colour}` })];
    return element('label', {}, input, label, ...swatch);
  };
  const slide = (
    label: string,
    min: number,
    max: number,
    step: number,
    value: number,
    set: (value: number) => void,
  ): HTMLElement[] => [
    element('h2', {}, label),
    element('input', {
      type: 'range',
      'aria-label': label,
      min: String(min),
      max: String(max),
      step: String(step),
      value: String(value),
      oninput: (e) => set(Number((e.target as HTMLInputElement).value)),
    }),
  ];
  const [low, high] = land.range();
  const key = element(
    'div',
    { id: 'key', hidden: facts.hasPicture },
    element('div', { class: 'key', style: `background:linear-gradient(90deg, ${facts.ramp.join(',')})` }),
    element(
      'div',
      { class: 'ends soft' },
      ...[low, high].map((z) => element('span', {}, `${formatNumber(z + base, 1)} ${facts.unit.short}`)),
    ),
  );
  const shown: HTMLElement[] = [];
  if (facts.hasPicture)
    shown.push(
      box('show-picture', 'Photograph', true, (isOn) => {
        scene.showPicture(isOn);
        key.hidden = isOn;
      }),
    );
  const contours = facts.kinds.flatMap(({ isContour }, id) => (isContour && scene.lines.has(id) ? [id] : []));
  const toggle = (ids: readonly number[]) => (isOn: boolean) => {
    for (const id of ids) scene.lines.get(id)!.visible = isOn;
    scene.ask();
  };
  if (contours.length > 0)
    shown.push(box('show-contours', 'Height lines', true, toggle(contours), facts.kinds[contours[0]!]!.colour));
  facts.kinds.forEach(({ name, colour, isContour }, id) => {
    if (!isContour && scene.lines.has(id)) shown.push(box(`show-${id}`, name, true, toggle([id]), colour));
  });
  const { points } = scene;
  if (points)
    shown.push(
      box('show-points', 'Measured points', false, (isOn) => {
        points.visible = isOn;
        scene.ask();
      }),
    );
  const layers = byId('layers');
  const list = element(
    'div',
    {},
    ...(shown.length > 0 ? [element('h2', {}, 'Show'), ...shown] : []),
    key,
    ...slide('Stretch heights', 1, 6, 0.5, 1, (by) => scene.stretch(by)),
    ...slide('Light from', 0, 360, 5, 315, (a) => scene.light(a)),
    element('button', { onclick: () => scene.home() }, 'Show everything'),
  );
  if (matchMedia('(max-width: 700px)').matches) {
    list.hidden = true;
    const more = element('button', { 'aria-expanded': 'false' }, 'Show …');
    more.addEventListener('click', () => {
      list.hidden = !list.hidden;
      more.setAttribute('aria-expanded', String(!list.hidden));
    });
    layers.append(more);
  }
  layers.append(list);
}

function takeTaps(canvas: HTMLCanvasElement, scene: LandScene, measuring: Measuring): void {
  let down: readonly [number, number] | undefined;
  canvas.addEventListener(
    'pointerdown',
    (event) => (down = event.isPrimary ? [event.clientX, event.clientY] : undefined),
  );
  canvas.addEventListener('pointerup', (event) => {
    if (!down || Math.hypot(event.clientX - down[0], event.clientY - down[1]) > TAP_PIXELS) return;
    const place = scene.pick(event.clientX, event.clientY);
    if (place) measuring.add(place);
  });
}

function takeKeys(scene: LandScene, measuring: Measuring): void {
  const turns: Readonly<Record<string, () => void>> = {
    ArrowLeft: () => scene.turn(-6, 0),
    ArrowRight: () => scene.turn(6, 0),
    ArrowUp: () => scene.turn(0, 4),
    ArrowDown: () => scene.turn(0, -4),
    '+': () => scene.turn(0, 0, 1.2),
    '=': () => scene.turn(0, 0, 1.2),
    '-': () => scene.turn(0, 0, 1 / 1.2),
    Home: () => scene.home(),
    Escape: () => measuring.clear(),
    Backspace: () => measuring.takeBack(),
  };
  addEventListener('keydown', (event) => {
    if (event.target instanceof HTMLInputElement || event.ctrlKey || event.metaKey || event.altKey) return;
    const turn = turns[event.key];
    if (!turn) return;
    event.preventDefault();
    turn();
  });
}
