/** Lines as the server keeps them: GeoJSON in the job's coordinates. */
export interface LineFile {
  readonly features: readonly { readonly geometry: { readonly coordinates: readonly (readonly number[])[] } }[];
}

/** Their segments about the scene's origin; corners without an elevation lie on it. */
export function lineSegments(file: LineFile, origin: readonly [number, number, number]): Float32Array {
  const out: number[] = [];
  for (const { geometry } of file.features) {
    const corners = geometry.coordinates;
    for (let k = 1; k < corners.length; k++)
      for (const [e, n, z] of [corners[k - 1]!, corners[k]!])
        out.push(e! - origin[0], n! - origin[1], (z ?? origin[2]) - origin[2]);
  }
  return Float32Array.from(out);
}
