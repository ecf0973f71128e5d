import { Injectable } from '@angular/core';
import { Subject } from 'rxjs';
import type { LineLayer } from './picture-sink';

/** Lines that go over the land in all views, each layer under a key. */
@Injectable()
export class SceneLines {
  /** Lines that came or went; undefined layers are gone. */
  readonly changes$ = new Subject<{ readonly key: string; readonly layer: LineLayer | undefined }>();

  set(key: string, positions: Float32Array | undefined, look?: Omit<LineLayer, 'positions'>): void {
    this.changes$.next({ key, layer: positions && look && { positions, ...look } });
  }
}
