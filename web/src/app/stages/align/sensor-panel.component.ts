import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { georeferenceScan, readSensorFile, sensorOfSettings, settingsOfSensor } from '@pampero/contract';
import { saveBytes } from '../../shared/save-bytes';
import { checkValues, givenValues, type Values } from '../../sheets/form-values';
import { JobStore } from '../../state/job-store';

/** A sensor that was read, as settings of the form. */
export interface ReadSensor {
  readonly label: string;
  readonly values: Values;
  readonly reasons: readonly string[];
}

/** A sensor file is read into the form, or made of what the form holds. */
@Component({
  selector: 'pam-sensor-panel',
  imports: [MatButtonModule, MatIconModule],
  template: `
    <p class="soft">
      Lever arm, boresight, mounting and what the scanner measures by can be kept in a sensor file, for the next flight.
    </p>
    <div class="act">
      <button mat-stroked-button type="button" (click)="file.click()">
        <mat-icon svgIcon="upload" />Read a sensor file
      </button>
      <button mat-button type="button" data-testid="save-sensor" (click)="save()">
        <mat-icon svgIcon="download" />Save as a sensor file
      </button>
      <input
        #file
        type="file"
        accept=".json"
        hidden
        aria-label="Sensor file"
        data-testid="sensor-file"
        (change)="open(file)"
      />
    </div>
    @if (fault()) {
      <div class="notice" role="alert">{{ fault() }}</div>
    }
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SensorPanelComponent {
  /** What the form holds. */
  readonly values = input.required<Values>();
  readonly opened = output<ReadSensor>();
  private readonly store = inject(JobStore);
  protected readonly fault = signal('');

  protected async open(input: HTMLInputElement): Promise<void> {
    const [file] = input.files ?? [];
    input.value = '';
    if (!file) return;
    const read = readSensorFile(await file.text());
    this.fault.set('fault' in read ? read.fault : '');
    if ('sensor' in read)
      this.opened.emit({
        label: read.sensor.name || file.name.replace(/\.[^.]*$/, ''),
        values: settingsOfSensor(read.sensor, this.store.unit()),
        reasons: [],
      });
  }

  protected save(): void {
    const unit = this.store.unit();
    // A sensor is the same on whatever trajectory.
    const given = { ...givenValues(this.values()), trajectory: 1 };
    const { faults, parsed } = checkValues(georeferenceScan, unit, given);
    this.fault.set(Object.values(faults)[0] ?? '');
    if (!parsed) return;
    const sensor = sensorOfSettings(parsed, unit);
    saveBytes(new Blob([JSON.stringify(sensor, undefined, 2)], { type: 'application/json' }), 'sensor.json');
  }
}
