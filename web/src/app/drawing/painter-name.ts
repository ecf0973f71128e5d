/** Who draws the points: plain arrays on the processor, or WebGL on the graphics card. */
export type PainterName = 'processor' | 'graphics';
/** What is asked for: one of them, or whichever suits the machine. */
export type PainterChoice = PainterName | 'automatic';
