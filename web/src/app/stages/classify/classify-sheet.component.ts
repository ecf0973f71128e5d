import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { GROUND } from '@pampero/core/cloud';
import {
  countClasses,
  takeMarginClasses,
  transferClasses,
  findBridges,
  findGround,
  findObjects,
  findWater,
} from '@pampero/contract';
import { GroundPreviewComponent } from './ground-preview.component';
import { MaskPanelComponent } from './mask-panel.component';
import { ObjectListComponent } from './object-list.component';
import { SuspectQueueComponent } from './suspect-queue.component';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatShare } from '@pampero/contract';
import { JobStore } from '../../state/job-store';
import { FigureCardsComponent } from '../../sheets/figure-cards.component';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { LOOKING, proposedSettings } from '../../sheets/proposed-settings';
import { SheetPartComponent } from '../../sheets/sheet-part.component';

/** Classify: what is ground, and what stands on it. */
@Component({
  selector: 'pam-classify-sheet',
  imports: [
    FigureCardsComponent,
    SuspectQueueComponent,
    GroundPreviewComponent,
    MaskPanelComponent,
    ObjectListComponent,
    OperationFormComponent,
    SheetPartComponent,
  ],
  template: `
    <div class="figures">
      <div>
        <span class="num" data-testid="ground-share">{{ figures().share }}</span><span>is ground</span>
      </div>
      <div>
        <span class="num">{{ figures().density }}</span><span>ground pts/{{ figures().unit }}²</span>
      </div>
      <div>
        <span class="num">{{ figures().unclassified }}</span><span>unclassified</span>
      </div>
    </div>
    @if (hasGround()) {
      <pam-sheet-part heading="Check the ground" name="suspects" [open]="true">
        <pam-suspect-queue />
      </pam-sheet-part>
    }
    <pam-sheet-part heading="Ground" name="ground" [open]="true">
      <p class="soft">{{ operation.does }}</p>
      <pam-operation-form
        [operation]="operation"
        [subject]="subject()"
        [blocked]="blocked() || (groundSet() ? '' : LOOKING)"
        [proposed]="groundSet()"
        (changed)="values.set($event)"
      />
      @if (store.clouds().length > 0) {
        <pam-ground-preview [values]="values()" />
      }
    </pam-sheet-part>
    <pam-sheet-part heading="Water" name="water">
      <p class="soft">{{ water.does }}</p>
      <pam-operation-form [operation]="water" [blocked]="objectsBlocked()" />
    </pam-sheet-part>
    <pam-sheet-part heading="Mask by colour" name="mask">
      <pam-mask-panel />
    </pam-sheet-part>
    <pam-sheet-part heading="Bridges" name="bridges">
      <p class="soft">{{ bridges.does }}</p>
      <pam-operation-form [operation]="bridges" [blocked]="objectsBlocked()" />
    </pam-sheet-part>
    <pam-sheet-part heading="Objects" name="objects" [open]="hasGround()">
      <p class="soft">{{ objects.does }}</p>
      <pam-operation-form
        [operation]="objects"
        [blocked]="objectsBlocked() || (objectSet() ? '' : LOOKING)"
        [proposed]="objectSet()"
      />
    </pam-sheet-part>
    @if (hasGround()) {
      <pam-sheet-part heading="List of objects" name="object-list" [open]="true">
        <pam-object-list />
      </pam-sheet-part>
    }
    @if (store.clouds().length > 0) {
      <pam-sheet-part heading="Class table" name="class-table">
        <p class="soft">{{ counting.does }}</p>
        <pam-operation-form [operation]="counting" />
        <pam-figure-cards kind="class-table" />
      </pam-sheet-part>
    }
    @if (store.job()?.square) {
      <pam-sheet-part heading="Margin" name="margin">
        <p class="soft">{{ margin.does }}</p>
        <pam-operation-form [operation]="margin" [blocked]="objectsBlocked()" />
      </pam-sheet-part>
    }
    @if (store.clouds().length > 1) {
      <pam-sheet-part heading="Transfer classes" name="transfer">
        <p class="soft">{{ transfer.does }}</p>
        <pam-operation-form [operation]="transfer" />
      </pam-sheet-part>
    }
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ClassifySheetComponent {
  protected readonly store = inject(JobStore);
  protected readonly values = signal<Record<string, unknown>>({});
  protected readonly operation = findGround;
  protected readonly objects = findObjects;
  protected readonly water = findWater;
  protected readonly bridges = findBridges;
  protected readonly margin = takeMarginClasses;
  protected readonly transfer = transferClasses;
  protected readonly counting = countClasses;
  protected readonly hasGround = computed(() => this.store.classCounts().has(GROUND));
  protected readonly objectsBlocked = computed(
    () => this.blocked() || (this.hasGround() ? '' : 'Find ground first. Heights are measured from it.'),
  );
  protected readonly LOOKING = LOOKING;
  protected readonly groundSet = proposedSettings(() => findGround.id);
  protected readonly objectSet = proposedSettings(() => findObjects.id);
  protected readonly subject = computed(() =>
    this.store.clouds().length === 1 ? `in ${formatCount(this.store.totalPoints())} points` : '',
  );
  protected readonly blocked = computed(() =>
    this.store.clouds().length === 0 ? 'There is no cloud yet. Import one in Intake.' : '',
  );

  protected readonly figures = computed(() => {
    const of = (code: number): number => this.store.classCounts().get(code) ?? 0;
    const total = this.store.totalPoints();
    const area = this.store
      .clouds()
      .reduce((sum, { bounds: { min, max } }) => sum + (max[0] - min[0]) * (max[1] - min[1]), 0);
    const ground = of(GROUND);
    return {
      share: total > 0 ? formatShare(ground / total) : '–',
      density: ground > 0 ? formatNumber(ground / area, 1) : '–',
      unit: shortUnit(this.store.unit()),
      unclassified: total > 0 ? formatShare((of(0) + of(1)) / total) : '–',
    };
  });
}
