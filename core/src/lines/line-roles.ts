/**
 * What a line is for: sides of facets run along a breakline and the slope breaks there; along a soft one sides run too, but the land is
 * round; the surface ends at a boundary; there is none in a hole; water lies level in its outline, flowing water falls from corner to
 * corner; a contour kept by hand is a soft line at one elevation; a plain line (a fence) is no part of the ground.
 */
export const LINE_ROLES = ['breakline', 'soft', 'boundary', 'hole', 'water', 'river', 'contour', 'plain'] as const;
export type LineRole = (typeof LINE_ROLES)[number];

/** What people call many of them. */
export const LINE_ROLE_NAMES: Readonly<Record<LineRole, string>> = {
  breakline: 'breaklines',
  soft: 'soft breaklines',
  boundary: 'boundary',
  hole: 'holes',
  water: 'water outlines',
  river: 'outlines of flowing water',
  contour: 'contours by hand',
  plain: 'plain lines',
};

/** Whether a line of this role closes an area off. */
export function isAreaRole(role: LineRole): boolean {
  return role === 'boundary' || role === 'hole' || role === 'water' || role === 'river';
}

/** Whether the ground is round along a line of this role, though sides of facets run along it. */
export function isSoftRole(role: LineRole): boolean {
  return role === 'soft' || role === 'contour';
}
