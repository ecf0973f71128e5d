import type { PointBatch } from '@pampero/core/cloud';
import { farm } from '../farm/farm.js';
import { flyLidar } from '../simulation/lidar-flight.js';
import type { Scene } from '../simulation/scene.js';
import { badlands } from './badlands.js';
import { denseCanopy } from './dense-canopy.js';
import { dunes } from './dunes.js';
import { ghostMeadow } from './ghost-meadow.js';
import { matchPhotos } from './match-photos.js';
import { photoMeadow } from './photo-meadow.js';
import { quarry } from './quarry.js';
import { scrubTerraces } from './scrub-terraces.js';
import { solarField } from './solar-field.js';
import { sparseCountry } from './sparse-country.js';
import { splitStrips } from './split-strips.js';
import { terraces } from './terraces.js';
import { town } from './town.js';
import { wiredTown } from './wired-town.js';
import { woodedHill } from './wooded-hill.js';

/** A simulated survey with its true classes and its true ground. */
export interface SurveyedScene {
  readonly name: string;
  readonly scene: Scene;
  readonly cloud: PointBatch;
}

const makers: Readonly<Record<string, { scene: (seed: number) => Scene; survey: typeof flyLidar }>> = {
  'wooded-hill': { scene: woodedHill, survey: flyLidar },
  town: { scene: town, survey: flyLidar },
  terraces: { scene: terraces, survey: flyLidar },
  'levee-farm': { scene: farm, survey: flyLidar },
  'photo-meadow': { scene: photoMeadow, survey: matchPhotos },
  'sparse-country': { scene: sparseCountry, survey: flyLidar },
  'scrub-terraces': { scene: scrubTerraces, survey: flyLidar },
  'ghost-meadow': { scene: ghostMeadow, survey: matchPhotos },
  'dense-canopy': { scene: denseCanopy, survey: flyLidar },
  'wired-town': { scene: wiredTown, survey: flyLidar },
  'split-strips': { scene: splitStrips, survey: flyLidar },
  badlands: { scene: badlands, survey: flyLidar },
  'solar-field': { scene: solarField, survey: flyLidar },
  quarry: { scene: quarry, survey: flyLidar },
  dunes: { scene: dunes, survey: flyLidar },
};

export const SCENES = Object.keys(makers);

/** The land of one of the {@link SCENES}. */
export function sceneOf(name: string, seed: number): Scene {
  return makers[name]!.scene(seed);
}

/** Surveys one of the {@link SCENES}; the same seed gives the same cloud. */
export function surveyScene(name: string, seed: number): SurveyedScene {
  const { scene: make, survey } = makers[name]!;
  const scene = make(seed);
  return { name, scene, cloud: survey(scene, seed + 1) };
}
