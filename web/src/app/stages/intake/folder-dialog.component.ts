import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { catchError, of, switchMap, tap } from 'rxjs';
import { formatBytes } from '@pampero/core/wording';
import { ApiClient } from '../../api/api-client';

export interface PickedPath {
  readonly folderPath: string;
  readonly bytes: number;
}

/** Clouds that lie in the folder on the server's machine: they need not be sent. */
@Component({
  selector: 'pam-folder-dialog',
  imports: [MatButtonModule, MatDialogModule],
  template: `
    <h2 mat-dialog-title>From the server’s folder</h2>
    <mat-dialog-content>
      <p class="num soft">/{{ path() }}</p>
      @if (path()) {
        <button class="plain-button row" (click)="up()">⮤ one folder up</button>
      }
      @for (entry of folder()?.entries ?? []; track entry.name) {
        @if (entry.isFolder) {
          <button class="plain-button row" (click)="open(entry.name)">▸ {{ entry.name }}</button>
        } @else {
          <label class="row"
            ><input type="checkbox" [checked]="isPicked(entry.name)" (change)="toggle(entry.name, entry.bytes)" />{{
              entry.name
            }}<span class="gap"></span><span class="num soft">{{ size(entry.bytes) }}</span></label
          >
        }
      } @empty {
        @if (problem()) {
          <p class="notice error" role="alert">{{ problem() }}</p>
        } @else {
          <p class="soft">{{ folder() ? 'No point files here.' : 'Reading …' }}</p>
        }
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close>Cancel</button>
      <button mat-flat-button [disabled]="picked().length === 0" (click)="done()">Look at {{ picked().length }}</button>
    </mat-dialog-actions>
  `,
  styles: `
    .row {
      display: flex;
      width: 100%;
      gap: 8px;
      align-items: center;
      padding: 5px 2px;
      border-bottom: 1px solid var(--rule);
    }
    .gap {
      flex: 1;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FolderDialogComponent {
  private readonly api = inject(ApiClient);
  private readonly dialog = inject<MatDialogRef<FolderDialogComponent, readonly PickedPath[]>>(MatDialogRef);

  protected readonly path = signal('');
  protected readonly picked = signal<readonly PickedPath[]>([]);
  protected readonly problem = signal('');
  protected readonly folder = toSignal(
    toObservable(this.path).pipe(
      switchMap((path) =>
        this.api.call('listFolder', { query: { path } }).pipe(
          tap(() => this.problem.set('')),
          catchError((error: unknown) => {
            this.problem.set(error instanceof Error ? error.message : String(error));
            return of(undefined);
          }),
        ),
      ),
    ),
  );
  private readonly prefix = computed(() => (this.path() ? `${this.path()}/` : ''));

  protected open(name: string): void {
    this.path.set(this.prefix() + name);
  }
  protected up(): void {
    this.path.set(this.path().split('/').slice(0, -1).join('/'));
  }
  protected isPicked(name: string): boolean {
    return this.picked().some(({ folderPath }) => folderPath === this.prefix() + name);
  }
  protected toggle(name: string, bytes: number): void {
    const folderPath = this.prefix() + name;
    const rest = this.picked().filter((p) => p.folderPath !== folderPath);
    this.picked.set(rest.length < this.picked().length ? rest : [...rest, { folderPath, bytes }]);
  }
  protected size(bytes: number): string {
    return formatBytes(bytes);
  }
  protected done(): void {
    this.dialog.close(this.picked());
  }
}
