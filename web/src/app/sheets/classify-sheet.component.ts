import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { GROUND } from '@pampero/core/cloud';
import { carryClasses, findBridges, findGround, findObjects, findWater } from '@pampero/contract';
import { catchError, of, switchMap } from 'rxjs';
import { ApiService } from '../api/api.service';
import { GroundPreviewComponent } from '../review/ground-preview.component';
import { ObjectListComponent } from '../review/object-list.component';
import { DoubtQueueComponent } from '../review/doubt-queue.component';
import { formatCount, formatNumber, formatShare, shortUnit } from '../shared/format';
import { WorkbenchStore } from '../workbench/workbench-store';
import { OperationFormComponent } from './operation-form.component';
import { SheetPartComponent } from './sheet-part.component';

/** Classify: ground is found here. */
@Component({
  selector: 'pam-classify-sheet',
  imports: [
    DoubtQueueComponent,
    GroundPreviewComponent,
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
      <pam-sheet-part heading="Where ground may be wrong" name="doubts" [open]="true">
        <pam-doubt-queue />
      </pam-sheet-part>
    }
    <pam-sheet-part heading="Ground" name="ground" [open]="true">
      <p class="soft">{{ operation.does }}</p>
      <pam-operation-form
        [operation]="operation"
        [subject]="subject()"
        [blocked]="blocked()"
        [proposed]="proposed()"
        (changed)="values.set($event)"
      >
        @if (proposal(); as p) {
          <details class="why" data-testid="ground-reasons">
            <summary>Why these are proposed</summary>
            <ul>
              @for (reason of p.reasons; track reason) {
                <li>{{ reason }}</li>
              }
            </ul>
          </details>
        }
      </pam-operation-form>
      @if (store.clouds().length > 0) {
        <pam-ground-preview [values]="values()" />
      }
    </pam-sheet-part>
    <pam-sheet-part heading="Water" name="water">
      <p class="soft">{{ water.does }}</p>
      <pam-operation-form [operation]="water" [blocked]="objectsBlocked()" />
    </pam-sheet-part>
    <pam-sheet-part heading="Bridges" name="bridges">
      <p class="soft">{{ bridges.does }}</p>
      <pam-operation-form [operation]="bridges" [blocked]="objectsBlocked()" />
    </pam-sheet-part>
    <pam-sheet-part heading="What stands on it" name="objects" [open]="hasGround()">
      <p class="soft">{{ objects.does }}</p>
      <pam-operation-form [operation]="objects" [blocked]="objectsBlocked()" />
    </pam-sheet-part>
    @if (hasGround()) {
      <pam-sheet-part heading="Object by object" name="object-list" [open]="true">
        <pam-object-list />
      </pam-sheet-part>
    }
    @if (store.clouds().length > 1) {
      <pam-sheet-part heading="From cloud to cloud" name="carry">
        <p class="soft">{{ carry.does }}</p>
        <pam-operation-form [operation]="carry" />
      </pam-sheet-part>
    }
  `,
  styleUrl: './sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ClassifySheetComponent {
  protected readonly store = inject(WorkbenchStore);
  protected readonly values = signal<Record<string, unknown>>({});
  private readonly api = inject(ApiService);
  protected readonly operation = findGround;
  protected readonly objects = findObjects;
  protected readonly water = findWater;
  protected readonly bridges = findBridges;
  protected readonly carry = carryClasses;
  protected readonly hasGround = computed(() => this.store.classCounts().has(GROUND));
  protected readonly objectsBlocked = computed(
    () => this.blocked() || (this.hasGround() ? '' : 'Heights are measured from the ground: find it first.'),
  );
  private readonly newestCloud = computed(() => this.store.clouds().at(-1)?.id);
  /** What the newest cloud tells of itself. */
  protected readonly proposal = toSignal(
    toObservable(this.newestCloud).pipe(
      switchMap((cloudId) =>
        cloudId === undefined
          ? of(undefined)
          : this.api.proposeGround(this.store.jobId(), cloudId).pipe(catchError(() => of(undefined))),
      ),
    ),
  );
  protected readonly proposed = computed(() => {
    const proposal = this.proposal();
    return proposal && { label: 'this cloud', values: proposal.parameters };
  });
  protected readonly subject = computed(() =>
    this.store.clouds().length === 1 ? `in ${formatCount(this.store.totalPoints())} points` : '',
  );
  protected readonly blocked = computed(() =>
    this.store.clouds().length === 0 ? 'There is no cloud yet: import one in Intake.' : '',
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
