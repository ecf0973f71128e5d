import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatSelectModule } from '@angular/material/select';
import {
  adjustStripsOperation,
  compareStrips,
  findStrips,
  fitToControl,
  flagOverlap,
  georeferenceScan,
  importTrajectory,
  smoothSurfaces,
  type Cloud,
} from '@pampero/contract';
import { SCAN_NAMES, scanColumn } from '@pampero/core/formats/raw-scan';
import { TRAJECTORY_NAMES, trajectoryColumn } from '@pampero/core/formats/trajectory';
import { metresPer } from '@pampero/core/geodesy';
import { formatNumber } from '@pampero/core/wording';
import { firstValueFrom } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import type { ColourMode } from '../../drawing/colour-modes';
import { FactsComponent } from '../../shared/facts.component';
import { shortUnit } from '../../shared/format';
import type { Values } from '../../sheets/form-values';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { LOOKING, proposedSettings } from '../../sheets/proposed-settings';
import { SheetPartComponent } from '../../sheets/sheet-part.component';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { LookStore } from '../../state/look-store';
import { ViewStore } from '../../state/view-store';
import { ViewCameras } from '../../viewer/view-cameras';
import { AdjustmentComponent } from './adjustment.component';
import { AgreementComponent } from './agreement.component';
import { wordsOfComparison } from './comparison-words';
import { wordsOfTrajectory } from './trajectory-words';
import { askColumns } from './ask-columns';
import { DifferenceMapComponent } from './difference-map.component';
import { SensorPanelComponent, type ReadSensor } from './sensor-panel.component';
import { SignPictureComponent } from './sign-picture.component';
import { StripEditStore } from './strip-edit-store';
import { StripEditorComponent } from './strip-editor.component';
import { StripListComponent } from './strip-list.component';
import { TargetsComponent } from './targets.component';

/** Align: do the strips agree with each other, and with control? */
@Component({
  selector: 'pam-align-sheet',
  imports: [
    AdjustmentComponent,
    AgreementComponent,
    DifferenceMapComponent,
    FactsComponent,
    FormsModule,
    MatButtonModule,
    MatSelectModule,
    OperationFormComponent,
    SensorPanelComponent,
    SheetPartComponent,
    SignPictureComponent,
    StripEditorComponent,
    StripListComponent,
    TargetsComponent,
  ],
  templateUrl: './align-sheet.component.html',
  styleUrls: ['../../sheets/sheet.scss', './align-table.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AlignSheetComponent {
  protected readonly store = inject(JobStore);
  protected readonly look = inject(LookStore);
  protected readonly edits = inject(StripEditStore);
  private readonly layers = inject(LayerStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly api = inject(ApiClient);

  protected readonly importing = importTrajectory;
  protected readonly georeferencing = georeferenceScan;
  protected readonly finding = findStrips;
  protected readonly comparing = compareStrips;
  protected readonly adjusting = adjustStripsOperation;
  protected readonly fitting = fitToControl;
  protected readonly overlap = flagOverlap;
  protected readonly smoothing = smoothSurfaces;
  /** The pair of strips whose map is looked at alone; another comparison begins with all. */
  protected readonly pair = linkedSignal<number | undefined, number | undefined>({
    source: () => this.differences()?.id,
    computation: () => undefined,
  });
  protected readonly mapParts = computed(() => {
    const pair = this.differences()?.facts.agreement.pairs[this.pair() ?? -1];
    return [
      {
        name: 'elevation',
        title: pair ? `${pair.two} less ${pair.one}` : 'all pairs, the largest difference of each place',
      },
    ];
  });

  // What the forms hold: pictures and sensor files go by it.
  protected readonly wayValues = signal<Values>({});
  protected readonly scanValues = signal<Values>({});
  protected readonly sensor = signal<ReadSensor | undefined>(undefined);
  protected readonly looking = LOOKING;
  /** The lever arm that the cloud was made with. */
  protected readonly leverArm = proposedSettings(() => adjustStripsOperation.id);

  private readonly dialog = inject(MatDialog);
  protected readonly trajectoryColumns = (file: File, values: Values): Promise<Values | undefined> =>
    values['format'] === 'binary' || values['columns']
      ? Promise.resolve({})
      : askColumns(this.dialog, file, {
          names: TRAJECTORY_NAMES,
          needed: [['time'], ['roll'], ['pitch'], ['heading'], ...POSITION_COLUMNS[positionsOf(values)]],
          known: trajectoryColumn,
        });
  protected readonly scanColumns = (file: File, values: Values): Promise<Values | undefined> =>
    values['columns']
      ? Promise.resolve({})
      : askColumns(this.dialog, file, {
          names: SCAN_NAMES,
          needed: [['time'], ['range'], ['across']],
          known: scanColumn,
        });

  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly hasClouds = computed(() => this.store.clouds().length > 0);
  protected readonly blocked = computed(() =>
    this.hasClouds() ? '' : 'There is no cloud yet. Import one in Intake, or georeference a raw scan.',
  );
  protected readonly needsTrajectory = computed(() =>
    this.store.of('trajectory').length > 0 ? '' : 'Import the trajectory of the flight first.',
  );
  protected readonly needsControl = computed(() =>
    !this.hasClouds() ? this.blocked() : this.store.controlCount() > 0 ? '' : 'Import control points in Intake first.',
  );

  protected readonly differences = computed(() => this.store.newest('strip-differences'));
  protected readonly adjustment = computed(() => this.store.newest('adjustment'));
  protected readonly strips = computed(() => this.store.newest('strips'));
  protected readonly movedClouds = computed(() =>
    this.store.clouds().filter(({ positions }) => positions.sets.length > 0),
  );

  protected readonly figures = computed(() => {
    // What holds of the positions that the cloud is shown at now.
    const [newest, adjustment] = [this.differences(), this.adjustment()];
    const latest = newest?.isStale ? undefined : newest;
    const shown = this.store.clouds().find(({ id }) => id === adjustment?.facts.cloudId)?.positions;
    const isApplied = shown?.sets.at(-1)?.id === shown?.shown && shown?.shown !== adjustment?.facts.positions;
    const left = isApplied ? adjustment?.facts.after : adjustment?.facts.before;
    const agreement = latest?.facts.agreement.all ?? left?.all;
    const control = latest?.facts.control ?? [];
    const count = control.reduce((sum, row) => sum + row.count, 0);
    const rmse = Math.sqrt(control.reduce((sum, row) => sum + row.count * row.rmse ** 2, 0) / Math.max(1, count));
    const strips = new Set(this.store.clouds().flatMap(({ source }) => source.strips)).size;
    const length = (value: number): string => `${formatNumber(value, 3)} ${this.unit()}`;
    return {
      strips: String(this.strips()?.facts.strips.length ?? (strips > 0 ? strips : '–')),
      rmsd: agreement ? length(agreement.rmsd) : '–',
      rmse: count > 0 ? length(rmse) : '–',
    };
  });

  protected readonly trajectories = computed(() =>
    this.store.of('trajectory').map(({ id, name, facts }) => ({
      id,
      name,
      remarks: facts.remarks,
      facts: wordsOfTrajectory(facts, {
        unit: this.store.unit(),
        ground: Math.min(...this.store.clouds().map(({ source }) => source.elevationRange[0])),
        strips: this.strips()?.facts.strips ?? [],
      }),
    })),
  );

  protected readonly comparison = computed(() => {
    const product = this.differences();
    if (!product) return undefined;
    return { product, ...wordsOfComparison(product.facts, this.unit()) };
  });

  /** Lays a section over a place, with the strips in colours of their own. */
  protected lookAt([east, north]: readonly [number, number]): void {
    const half = 12 / metresPer(this.store.unit());
    this.layers.showing.set('points');
    this.look.mode.set(this.stripColours());
    this.views.pane.set('plan');
    this.views.sectionDepth.set(half / 4);
    this.views.section.set({ a: [east - half, north], b: [east + half, north] });
    void this.frameOn(east, north, half / 4);
  }

  /** Draws heights out until a gap of a few decimetres between strips is plain. */
  private async frameOn(east: number, north: number, reach: number): Promise<void> {
    const cloud = this.layers.shownClouds().at(-1);
    if (!cloud) return;
    const [jobId, cloudId] = [this.store.jobId(), cloud.id];
    const outline = [-1, 1, 1, -1].map((e, k): [number, number] => [
      east + e * reach,
      north + (k < 2 ? -reach : reach),
    ]);
    const window = await firstValueFrom(
      this.api.call('readWindow', { params: { jobId, cloudId }, body: { outline } }),
    ).catch(() => undefined);
    if (window?.lowest === undefined) return;
    const metre = 1 / metresPer(this.store.unit());
    this.cameras.frameSectionOn(window.lowest + 0.3 * metre, 0.6 * metre);
  }

  protected showApart(): void {
    this.layers.showing.set('points');
    this.look.mode.set(this.stripColours());
  }

  /** The strips there are: as they were found by times, else by point source ID. */
  private stripColours(): ColourMode {
    return this.strips()?.facts.by === 'time' && this.look.strips().length > 0 ? 'found-strip' : 'strip';
  }

  /** What there is to colour a trajectory by. */
  protected readonly flightColours = computed(() => {
    const hasAccuracies = this.store.of('trajectory').some(({ facts }) => facts.hasAccuracies);
    return [
      { id: 'plain', name: 'plain' },
      ...(this.look.strips().length > 0 ? [{ id: 'strip', name: 'by strip' }] : []),
      { id: 'time', name: 'by time' },
      ...(hasAccuracies ? [{ id: 'accuracy', name: 'by accuracy of height' }] : []),
    ];
  });

  protected choosePositions(cloud: Cloud, positions: number): void {
    if (positions === cloud.positions.shown) return;
    this.store.start('choose-positions', { cloud: cloud.id, positions }, ({ problem }) =>
      this.store.say(problem.detail),
    );
  }
}

const POSITION_COLUMNS = {
  projected: [['east', 'x'], ['north', 'y'], ['height']],
  geographic: [['longitude'], ['latitude'], ['height']],
  geocentric: [['x'], ['y'], ['height']],
} as const;
const positionsOf = (values: Values): keyof typeof POSITION_COLUMNS =>
  (values['positions'] as keyof typeof POSITION_COLUMNS | undefined) ?? 'projected';
