/** `after` is the section once more, under itself, as the ground would be. */
export type ViewId = 'plan' | 'section' | 'after' | 'model';
