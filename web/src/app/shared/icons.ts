import { inject, Injectable } from '@angular/core';
import { MatIconRegistry } from '@angular/material/icon';
import { DomSanitizer } from '@angular/platform-browser';
import add from '@material-symbols/svg-400/outlined/add.svg';
import back from '@material-symbols/svg-400/outlined/arrow_back.svg';
import close from '@material-symbols/svg-400/outlined/close.svg';
import bin from '@material-symbols/svg-400/outlined/delete.svg';
import download from '@material-symbols/svg-400/outlined/download.svg';
import whole from '@material-symbols/svg-400/outlined/fit_screen.svg';
import help from '@material-symbols/svg-400/outlined/help.svg';
import book from '@material-symbols/svg-400/outlined/menu_book.svg';
import more from '@material-symbols/svg-400/outlined/more_vert.svg';
import redo from '@material-symbols/svg-400/outlined/redo.svg';
import rebuild from '@material-symbols/svg-400/outlined/sync.svg';
import section from '@material-symbols/svg-400/outlined/timeline.svg';
import undo from '@material-symbols/svg-400/outlined/undo.svg';
import upload from '@material-symbols/svg-400/outlined/upload_file.svg';
import shown from '@material-symbols/svg-400/outlined/visibility.svg';
import hidden from '@material-symbols/svg-400/outlined/visibility_off.svg';
import warning from '@material-symbols/svg-400/outlined/warning.svg';

const icons = {
  add,
  back,
  bin,
  book,
  close,
  download,
  help,
  hidden,
  more,
  rebuild,
  redo,
  section,
  shown,
  undo,
  upload,
  warning,
  whole,
};
export type IconName = keyof typeof icons;

/** Makes the icons known to `mat-icon`; only those used are in the bundle. */
@Injectable({ providedIn: 'root' })
export class IconRegistrar {
  private readonly registry = inject(MatIconRegistry);
  private readonly sanitizer = inject(DomSanitizer);

  registerAll(): void {
    for (const [name, svg] of Object.entries(icons))
      this.registry.addSvgIconLiteral(name, this.sanitizer.bypassSecurityTrustHtml(svg));
  }
}
