import { bootstrapApplication } from '@angular/platform-browser';
import { z } from 'zod';
import { AppComponent } from './app/app.component';
import { appConfig } from './app/app.config';

// The content security policy allows no code from text, which Zod would otherwise try to make.
z.config({ jitless: true });

bootstrapApplication(AppComponent, appConfig).catch((error: unknown) => {
  document.body.textContent = `Pampero could not start: ${String(error)}`;
});
