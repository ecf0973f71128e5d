import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { IconRegistrar } from './shared/icons';

@Component({
  selector: 'pam-root',
  imports: [RouterOutlet],
  template: '<router-outlet />',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AppComponent {
  private readonly icons = inject(IconRegistrar);

  constructor() {
    this.icons.registerAll();
  }
}
