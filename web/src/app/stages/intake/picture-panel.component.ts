import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { MatSliderModule } from '@angular/material/slider';
import { MatTooltipModule } from '@angular/material/tooltip';
import { checkPictureShift, colourCloud, joinPictures, movePicture, type ProductOf } from '@pampero/contract';
import { isWorldFileName, pixelSize } from '@pampero/core/imagery';
import { formatCount, formatNumber, GAP } from '@pampero/core/wording';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { SheetPartComponent } from '../../sheets/sheet-part.component';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { LookStore } from '../../state/look-store';
import { PictureStore, type PictureLook } from '../../viewer/picture-store';
import { ShiftArrowsComponent } from './shift-arrows.component';

const SLIDERS = [
  { name: 'opacity', label: 'Opacity', min: 0, max: 1, step: 0.05 },
  { name: 'brightness', label: 'Brightness', min: -100, max: 100, step: 2 },
  { name: 'contrast', label: 'Contrast', min: -100, max: 100, step: 2 },
] as const satisfies readonly { readonly name: keyof PictureLook; readonly [other: string]: unknown }[];

/** Pictures on the ground: brought in, looked at against the points, checked, moved, and the cloud coloured from them. */
@Component({
  selector: 'pam-picture-panel',
  imports: [
    FormsModule,
    MatButtonModule,
    MatIconModule,
    MatSliderModule,
    MatTooltipModule,
    OperationFormComponent,
    SheetPartComponent,
    ShiftArrowsComponent,
  ],
  templateUrl: './picture-panel.component.html',
  styleUrls: ['../../sheets/sheet.scss', './picture-panel.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PicturePanelComponent {
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly pictures = inject(PictureStore);
  private readonly look = inject(LookStore);
  protected readonly sliders = SLIDERS;
  protected readonly checkOperation = checkPictureShift;
  protected readonly joinOperation = joinPictures;
  protected readonly moveOperation = movePicture;
  protected readonly colourOperation = colourCloud;

  protected readonly all = computed(() =>
    this.store.of('picture').map((picture) => ({
      ...picture,
      key: layerKey('picture', picture.id),
      isShown: this.layers.isShown(layerKey('picture', picture.id)),
      size: this.sizeOf(picture),
      look: this.pictures.look(picture.seriesId),
    })),
  );
  /** The newest; those before it are listed at Deliver. */
  protected readonly checks = computed(() => [...this.store.of('shift-check')].reverse().slice(0, 1));
  protected readonly hasColours = computed(() => this.store.clouds().some(({ columns }) => columns.rgb));
  protected readonly needsPicture = computed(() =>
    this.all().length === 0
      ? 'Import a picture first.'
      : this.store.clouds().length === 0
        ? 'Import a cloud first.'
        : '',
  );

  private sizeOf({ facts }: ProductOf<'picture'>): string {
    const size = `${formatNumber(pixelSize(facts), 3)}${GAP}${shortUnit(this.store.unit())}`;
    return `${formatCount(facts.columns)} by ${formatCount(facts.rows)} pixels of ${size}`;
  }

  /** A picture, and a world file that was chosen with it. */
  protected async picked(input: HTMLInputElement): Promise<void> {
    const files = [...(input.files ?? [])];
    input.value = '';
    const worlds = files.filter(({ name }) => isWorldFileName(name));
    const chosen = files.filter((file) => !worlds.includes(file));
    if (chosen.length === 0 && worlds.length > 0) {
      this.store.say('That is a world file alone. Choose it together with its picture.');
      return;
    }
    for (const file of chosen) {
      const stem = file.name.replace(/\.[^.]+$/, '').toLowerCase();
      const world = worlds.find(({ name }) => name.replace(/\.[^.]+$/, '').toLowerCase() === stem) ?? (chosen.length === 1 ? worlds[0] : undefined); // prettier-ignore
      this.store.startWithFile('import-picture', file, world ? { worldFile: (await world.text()).slice(0, 4000) } : {});
    }
  }

  protected setLook(seriesId: number, name: keyof PictureLook, value: number): void {
    this.pictures.setLook(seriesId, { [name]: value });
  }

  protected showCloudColours(): void {
    this.look.mode.set('colour');
    this.layers.showing.set('points');
  }
}
