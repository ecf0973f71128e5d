/** A roof over a rectangle: `eaves` at the two long sides, `ridge` along the middle (or along one side for a lean-to). */
export interface Building {
  readonly east: number;
  readonly north: number;
  readonly halfLength: number;
  readonly halfWidth: number;
  /** Degrees of the long axis, counter-clockwise from east. */
  readonly turned: number;
  readonly floor: number;
  readonly eaves: number;
  readonly ridge: number;
  readonly isLeanTo: boolean;
}

/** A crown as an upright ellipsoid through which a beam loses its way. */
export interface Tree {
  readonly east: number;
  readonly north: number;
  readonly foot: number;
  readonly middle: number;
  readonly halfHeight: number;
  readonly radius: number;
  /** Chance of a return per metre of crown crossed. */
  readonly density: number;
}

/** Something thin and straight: a wire span, a pole, a fence rail. Ends in metres from the corner, elevation in metres. */
export interface Rod {
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
  readonly radius: number;
  readonly classCode: number;
  readonly reflectance: number;
}

/** An upright box: a head wall, a vehicle, the deck of a bridge. */
export interface Box {
  readonly east: number;
  readonly north: number;
  readonly halfLength: number;
  readonly halfWidth: number;
  readonly turned: number;
  readonly foot: number;
  readonly top: number;
  readonly classCode: number;
}

export interface Objects {
  readonly buildings: readonly Building[];
  readonly trees: readonly Tree[];
  readonly rods: readonly Rod[];
  readonly boxes: readonly Box[];
}

export const CLASS = {
  ground: 2,
  low: 3,
  medium: 4,
  high: 5,
  building: 6,
  lowPoint: 7,
  water: 9,
  conductor: 14,
  tower: 15,
  deck: 17,
  highNoise: 18,
  fence: 64,
  vehicle: 65,
} as const;

/** A flight: strips over the scene. Metres and seconds; angles in degrees off the vertical. */
export interface Flight {
  readonly height: number;
  readonly speed: number;
  readonly halfAngle: number;
  /** Along the strip, and along the line across it. */
  readonly lineSpacing: number;
  readonly pointSpacing: number;
  readonly rangeNoise: number;
  readonly beamRadius: number;
  readonly strips: readonly { readonly from: readonly [number, number]; readonly to: readonly [number, number] }[];
  /** How far each strip's points lie off, east, north and up; none where there is nothing. */
  readonly stripErrors?: readonly (readonly [number, number, number])[];
}

/** A piece of invented land with what stands on it, in metres from its corner. */
export interface Scene {
  readonly extent: { readonly east: number; readonly north: number };
  /** Elevation of the bare ground, under water too. */
  readonly ground: (east: number, north: number) => number;
  /** Level of standing water, −∞ where it is dry. */
  readonly water: (east: number, north: number) => number;
  /** Height of the grass. */
  readonly grass: (east: number, north: number) => number;
  /** Gravel or pavement: no grass, less light sent back. */
  readonly isHard: (east: number, north: number) => boolean;
  readonly meanGround: number;
  readonly lowestGround: number;
  readonly highestGround: number;
  /** Slopes and steps that a beam has to be followed down to. */
  readonly isSteep: boolean;
  readonly objects: Objects;
  readonly flight: Flight;
  /** False points under the ground and in the air. */
  readonly falsePoints: { readonly low: number; readonly high: number };
}
