import { align } from './align/align';
import { classify } from './classify/classify';
import { clean } from './clean/clean';
import { deliver } from './deliver/deliver';
import { intake } from './intake/intake';
import { lines } from './lines/lines';
import type { StageHome } from './stage-home';
import { terrain } from './terrain/terrain';
import { thin } from './thin/thin';

/** The stages that are built, in the order of the work. */
export const stageHomes: readonly StageHome[] = [intake, align, clean, classify, thin, lines, terrain, deliver];
export type { Shown, StageHome } from './stage-home';
