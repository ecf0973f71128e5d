import type { ClientViewFacts } from '@pampero/contract';
import { outlineArea, type HeightField } from '@pampero/core/client-view';
import { formatNumber } from '@pampero/core/wording';
import {
  CategoryScale,
  Chart,
  Filler,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from 'chart.js';
import { byId, element } from './elements.js';
import type { LandScene, Place } from './land-scene.js';

Chart.register(CategoryScale, Filler, LinearScale, LineController, LineElement, PointElement, Tooltip);

export const TOOLS = [
  { id: 'look', label: 'Look', hint: '' },
  { id: 'distance', label: 'Distance', hint: 'Tap two places or more.' },
  { id: 'area', label: 'Area', hint: 'Tap the corners, three or more.' },
  { id: 'profile', label: 'Profile', hint: 'Tap where the profile begins and ends; corners may lie between.' },
] as const;
export type ToolId = (typeof TOOLS)[number]['id'];

const PROFILE_PLACES = 600;

/** Measures on the land: each tap adds a place, and what is told follows. */
export class Measuring {
  tool: ToolId = 'look';
  private places: Place[] = [];
  private chart: Chart | undefined;
  private level: number | undefined;

  constructor(
    private readonly scene: LandScene,
    private readonly land: HeightField,
    private readonly facts: ClientViewFacts,
    private readonly base: number,
    private readonly cell: number,
  ) {}

  choose(tool: ToolId): void {
    this.tool = tool;
    this.clear();
  }

  clear(): void {
    this.places = [];
    this.level = undefined;
    this.show();
  }

  takeBack(): void {
    this.places.pop();
    this.show();
  }

  add(place: Place): void {
    if (this.tool === 'look') return;
    this.places.push(place);
    this.show();
  }

  private show(): void {
    const { places, tool } = this;
    this.scene.measure(places, tool === 'area');
    const reading = byId('reading');
    this.chart?.destroy();
    this.chart = undefined;
    reading.hidden = tool === 'look';
    if (tool === 'look') return;
    const enough = places.length >= (tool === 'area' ? 3 : 2);
    const parts = !enough
      ? [element('span', {}, TOOLS.find(({ id }) => id === tool)!.hint)]
      : tool === 'distance'
        ? this.distance()
        : tool === 'area'
          ? this.area()
          : this.profile();
    const again = places.length > 0 ? [element('button', { onclick: () => this.clear() }, 'Begin again')] : [];
    reading.replaceChildren(element('div', { class: 'row' }, ...parts, ...again));
    if (enough && tool === 'profile') this.drawProfile(reading);
  }

  private length(value: number): string {
    return `${formatNumber(value, 2)} ${this.facts.unit.short}`;
  }

  private distance(): Node[] {
    let [flat, slope] = [0, 0];
    for (let k = 0; k + 1 < this.places.length; k++) {
      const [a, b] = [this.places[k]!, this.places[k + 1]!];
      flat += Math.hypot(b[0] - a[0], b[1] - a[1]);
      slope += Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
    }
    const rise = this.places.at(-1)![2] - this.places[0]![2];
    return [
      element('output', { id: 'flat' }, element('strong', {}, this.length(flat)), ' measured flat, as on a map'),
      element('output', {}, `${this.length(slope)} with the rise and fall between the places`),
      element('output', { id: 'rise' }, `${this.length(Math.abs(rise))} ${rise >= 0 ? 'higher' : 'lower'} at the end`),
    ];
  }

  private area(): Node[] {
    const outline = this.places.map(([x, y]) => [x, y] as const);
    const lowest = Math.min(...this.places.map(([, , z]) => z));
    const level = this.level ?? lowest;
    const { above, below } = this.land.volume(outline, level);
    const { short } = this.facts.unit;
    const input = element('input', {
      type: 'number',
      step: '0.1',
      id: 'level',
      value: (level + this.base).toFixed(2),
      onchange: (event) => {
        const typed = Number((event.target as HTMLInputElement).value);
        if (Number.isFinite(typed)) this.level = typed - this.base;
        this.show();
      },
    });
    return [
      element(
        'output',
        { id: 'area' },
        element('strong', {}, `${formatNumber(outlineArea(outline), 1)} ${short}²`),
        ' seen from above',
      ),
      element('label', {}, 'Compared with the height ', input, ` ${short}`),
      element(
        'output',
        { id: 'volume' },
        `${formatNumber(above, 1)} ${short}³ of ground above it, ${formatNumber(below, 1)} ${short}³ of hollow below it`,
      ),
    ];
  }

  private profile(): Node[] {
    const { distance, height } = this.along();
    const seen = height.filter((z) => !Number.isNaN(z));
    const long = element('output', {}, element('strong', {}, this.length(distance.at(-1)!)), ' long');
    if (seen.length === 0) return [long, element('output', {}, 'no land along it')];
    const [low, high] = [Math.min(...seen), Math.max(...seen)];
    return [
      long,
      element('output', {}, `lowest ${this.length(low + this.base)}, highest ${this.length(high + this.base)}`),
    ];
  }

  private along(): { distance: number[]; height: number[] } {
    const outline = this.places.map(([x, y]) => [x, y] as const);
    const whole = outline
      .slice(1)
      .reduce((sum, [x, y], k) => sum + Math.hypot(x - outline[k]![0], y - outline[k]![1]), 0);
    return this.land.profile(outline, Math.max(this.cell / 2, whole / PROFILE_PLACES));
  }

  private drawProfile(reading: HTMLElement): void {
    const { distance, height } = this.along();
    const canvas = element('canvas', { 'aria-label': 'Heights along the line' });
    reading.append(element('div', { class: 'chart' }, canvas));
    const { short } = this.facts.unit;
    this.chart = new Chart(canvas, {
      type: 'line',
      data: {
        datasets: [
          {
            data: distance.map((x, k) => ({ x, y: height[k]! + this.base })),
            borderColor: '#7a5a2e',
            backgroundColor: '#b98a3a33',
            fill: true,
            pointRadius: 0,
            borderWidth: 1.5,
          },
        ],
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        interaction: { mode: 'nearest', axis: 'x', intersect: false },
        plugins: {
          tooltip: {
            displayColors: false,
            callbacks: {
              title: (items) => `${this.length(items[0]?.parsed.x ?? 0)} along`,
              label: (item) => `height ${this.length(item.parsed.y ?? 0)}`,
            },
          },
        },
        scales: {
          x: { type: 'linear', max: distance.at(-1)!, title: { display: true, text: `along the line, ${short}` } },
          y: { title: { display: true, text: `height, ${short}` } },
        },
      },
    });
  }
}
