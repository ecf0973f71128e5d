import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  model,
  viewChild,
  ViewEncapsulation,
} from '@angular/core';
import type EasyMDE from 'easymde';

/** Words of several lines with headings and lists, written as they will look; kept as Markdown. */
@Component({
  selector: 'pam-words-editor',
  template: `<textarea #area [attr.aria-label]="label()"></textarea>`,
  styleUrl: './words-editor.component.scss',
  // The library's own elements are inside.
  encapsulation: ViewEncapsulation.None,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class WordsEditorComponent {
  readonly words = model.required<string>();
  readonly label = input.required<string>();
  readonly most = input(20_000);

  private readonly area = viewChild.required<ElementRef<HTMLTextAreaElement>>('area');
  private editor: EasyMDE | undefined;

  constructor() {
    let isGone = false;
    inject(DestroyRef).onDestroy(() => {
      isGone = true;
      this.editor?.toTextArea();
    });
    afterNextRender(async () => {
      const { default: Editor } = await import('easymde');
      if (!isGone) this.begin(Editor);
    });
    effect(() => {
      const words = this.words();
      if (this.editor && this.editor.value() !== words) this.editor.value(words);
    });
  }

  private begin(Editor: typeof EasyMDE): void {
    const editor = new Editor({
      element: this.area().nativeElement,
      initialValue: this.words(),
      // Nothing is fetched from elsewhere: neither icons nor dictionaries.
      autoDownloadFontAwesome: false,
      spellChecker: false,
      nativeSpellcheck: true,
      inputStyle: 'contenteditable',
      status: false,
      minHeight: '110px',
      toolbar: [
        {
          name: 'heading',
          action: Editor.toggleHeadingSmaller,
          className: 'heading',
          title: 'Heading',
          text: 'Heading',
        },
        { name: 'list', action: Editor.toggleUnorderedList, className: 'list', title: 'List', text: 'List' },
        {
          name: 'numbers',
          action: Editor.toggleOrderedList,
          className: 'numbers',
          title: 'Numbered list',
          text: '1 2 3',
        },
        '|',
        { name: 'undo', action: Editor.undo, className: 'undo', title: 'Undo', text: 'Undo' },
        { name: 'redo', action: Editor.redo, className: 'redo', title: 'Redo', text: 'Redo' },
      ] as never,
      shortcuts: {
        toggleFullScreen: null,
        toggleSideBySide: null,
        togglePreview: null,
        drawLink: null,
        drawImage: null,
      },
    });
    this.editor = editor;
    const input = editor.codemirror.getInputField();
    input.setAttribute('aria-label', this.label());
    input.setAttribute('data-testid', 'words');
    editor.codemirror.on('change', () => {
      const words = editor.value();
      if (words.length > this.most()) editor.value(words.slice(0, this.most()));
      else this.words.set(words);
    });
  }
}
