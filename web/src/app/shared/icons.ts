import { inject, Injectable } from '@angular/core';
import { MatIconRegistry } from '@angular/material/icon';
import { DomSanitizer } from '@angular/platform-browser';
import pen from '@material-symbols/svg-400/outlined/polyline.svg';
import lines from '@material-symbols/svg-400/outlined/linear_scale.svg';
import fold from '@material-symbols/svg-400/outlined/chevron_right.svg';
import triangles from '@material-symbols/svg-400/outlined/change_history.svg';
import hand from '@material-symbols/svg-400/outlined/pan_tool.svg';
import outline from '@material-symbols/svg-400/outlined/lasso_select.svg';
import box from '@material-symbols/svg-400/outlined/select.svg';
import brush from '@material-symbols/svg-400/outlined/brush.svg';
import above from '@material-symbols/svg-400/outlined/vertical_align_top.svg';
import below from '@material-symbols/svg-400/outlined/vertical_align_bottom.svg';
import touch from '@material-symbols/svg-400/outlined/touch_app.svg';
import measure from '@material-symbols/svg-400/outlined/straighten.svg';
import note from '@material-symbols/svg-400/outlined/keep.svg';
import palette from '@material-symbols/svg-400/outlined/palette.svg';
import views from '@material-symbols/svg-400/outlined/bookmarks.svg';
import focus from '@material-symbols/svg-400/outlined/center_focus_strong.svg';
import cube from '@material-symbols/svg-400/outlined/deployed_code.svg';
import copy from '@material-symbols/svg-400/outlined/content_copy.svg';
import swap from '@material-symbols/svg-400/outlined/swap_horiz.svg';
import again from '@material-symbols/svg-400/outlined/restart_alt.svg';
import keep from '@material-symbols/svg-400/outlined/bookmark.svg';
import block from '@material-symbols/svg-400/outlined/block.svg';
import check from '@material-symbols/svg-400/outlined/check.svg';
import edit from '@material-symbols/svg-400/outlined/edit.svg';
import pick from '@material-symbols/svg-400/outlined/colorize.svg';
import strips from '@material-symbols/svg-400/outlined/conversion_path.svg';
import target from '@material-symbols/svg-400/outlined/my_location.svg';
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
  pen,
  lines,
  fold,
  triangles,
  hand,
  outline,
  box,
  brush,
  above,
  below,
  touch,
  measure,
  note,
  palette,
  views,
  focus,
  cube,
  copy,
  swap,
  again,
  keep,
  block,
  check,
  edit,
  pick,
  strips,
  target,
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
