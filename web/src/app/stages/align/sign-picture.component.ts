import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

/** Which way the angles of a trajectory are counted, as pictures: the platform lies as a small positive angle has it. */
@Component({
  selector: 'pam-sign-picture',
  template: `
    <figure>
      <svg viewBox="-50 -40 100 80" role="img" [attr.aria-label]="'Roll is positive: ' + rollText()">
        <g [attr.transform]="'rotate(' + rollTurn() + ')'">
          <path d="M-36 0 H36 M-9 0 a9 9 0 0 0 18 0 M0 0 V-12" />
        </g>
        <path class="way" [attr.d]="rollWay()" />
        <line class="level" x1="-44" y1="0" x2="44" y2="0" />
      </svg>
      <figcaption>seen from behind: roll +, {{ rollText() }}</figcaption>
    </figure>
    <figure>
      <svg viewBox="-50 -40 100 80" role="img" [attr.aria-label]="'Pitch is positive: ' + pitchText()">
        <g [attr.transform]="'rotate(' + pitchTurn() + ')'">
          <path d="M-32 0 H26 L36 4 L26 8 H-32 Z M-32 0 L-38 -14 H-30 L-24 0" />
        </g>
        <path class="way" [attr.d]="pitchWay()" />
        <line class="level" x1="-44" y1="4" x2="44" y2="4" />
      </svg>
      <figcaption>seen from the right: pitch +, {{ pitchText() }}</figcaption>
    </figure>
    <figure>
      <svg viewBox="-50 -40 100 80" role="img" [attr.aria-label]="'Heading: ' + headingText()">
        <line class="level" x1="0" y1="30" x2="0" y2="-30" />
        <text x="0" y="-31">{{ heading() === 'yaw' ? '' : 'N' }}</text>
        <line class="level" x1="-30" y1="0" x2="30" y2="0" />
        <text x="36" y="4">{{ heading() === 'yaw' ? 'E' : '' }}</text>
        <g [attr.transform]="'rotate(' + (heading() === 'yaw' ? 50 : 40) + ')'">
          <path d="M0 -24 L6 18 L0 12 L-6 18 Z M-18 4 L0 -6 L18 4" />
        </g>
        <path
          class="way"
          [attr.d]="heading() === 'yaw' ? 'M24 0 A24 24 0 0 0 15.4 -18.4' : 'M0 -24 A24 24 0 0 1 15.4 -18.4'"
        />
      </svg>
      <figcaption>seen from above: {{ headingText() }}</figcaption>
    </figure>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: repeat(3, 1fr);
      gap: 8px;
      margin: 4px 0 12px;
    }
    figure {
      margin: 0;
    }
    svg {
      display: block;
      width: 100%;
      border: 1px solid var(--rule);
      border-radius: 5px;
      background: #fff;
    }
    path {
      fill: none;
      stroke: var(--ink);
      stroke-width: 2;
      stroke-linejoin: round;
    }
    .way {
      stroke: var(--pole);
      stroke-width: 2.5;
    }
    .level {
      stroke: var(--rule-strong);
      stroke-dasharray: 3 3;
    }
    text {
      font-size: 11px;
      text-anchor: middle;
      fill: var(--ink-2);
    }
    figcaption {
      padding-top: 3px;
      font-size: 11.5px;
      line-height: 1.25;
      color: var(--ink-2);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SignPictureComponent {
  readonly roll = input<unknown>('right-down');
  readonly pitch = input<unknown>('nose-up');
  readonly heading = input<unknown>('grid-north');

  private readonly isLeftDown = computed(() => this.roll() === 'left-down');
  private readonly isNoseDown = computed(() => this.pitch() === 'nose-down');
  protected readonly rollTurn = computed(() => (this.isLeftDown() ? -16 : 16));
  protected readonly rollWay = computed(() =>
    this.isLeftDown() ? 'M-40 0 A40 40 0 0 0 -38.4 11.2' : 'M40 0 A40 40 0 0 1 38.4 11.2',
  );
  protected readonly rollText = computed(() => (this.isLeftDown() ? 'left side down' : 'right side down'));
  // Seen from the right the nose is at the right: up is against the clock.
  protected readonly pitchTurn = computed(() => (this.isNoseDown() ? 14 : -14));
  protected readonly pitchWay = computed(() =>
    this.isNoseDown() ? 'M42 4 A42 42 0 0 1 40.7 14.4' : 'M42 4 A42 42 0 0 0 40.7 -6.4',
  );
  protected readonly pitchText = computed(() => (this.isNoseDown() ? 'nose down' : 'nose up'));
  protected readonly headingText = computed(() => {
    if (this.heading() === 'yaw') return 'yaw, counter-clockwise from east';
    return this.heading() === 'true-north' ? 'clockwise from true north' : 'clockwise from grid north';
  });
}
