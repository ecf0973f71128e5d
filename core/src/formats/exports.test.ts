import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { afterAll, describe, expect, test } from 'vitest';
import { contourDefaults, traceContours } from '../contours/index.js';
import { triangulate } from '../terrain/index.js';
import { contoursToDxf } from './dxf/index.js';
import { surfaceToLandXml } from './landxml/index.js';

const folder = mkdtempSync(join(tmpdir(), 'pampero-exports-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A pyramid 10 m high over a square of 40 m, at surveying coordinates. */
const { tin } = triangulate(
  Float64Array.of(5_512_000, 5_512_040, 5_512_040, 5_512_000, 5_512_020),
  Float64Array.of(6_150_000, 6_150_000, 6_150_040, 6_150_040, 6_150_020),
  Float64Array.of(30, 30, 30, 30, 40),
);

describe('contours as DXF', () => {
  const set = traceContours(tin, { ...contourDefaults, interval: 2, base: 1, indexEvery: 2 });
  const text = [...contoursToDxf(set, 'metre')].join('');

  test('are read by OGR as closed 3D lines at their elevation, on a layer for index and one for the rest', () => {
    const path = join(folder, 'contours.dxf');
    writeFileSync(path, text);
    const json = JSON.parse(
      execFileSync('ogr2ogr', ['-f', 'GeoJSON', '/vsistdout/', path], { maxBuffer: 1e8 }).toString(),
    ) as {
      features: { properties: { Layer: string }; geometry: { type: string; coordinates: number[][] } }[];
    };
    // Counted from 1 m in steps of 2 m, every second an index: 33 = 1 + 16 · 2 and 37 = 1 + 18 · 2.
    expect(json.features.map((f) => [f.properties.Layer, f.geometry.coordinates[0]![2]])).toEqual([
      ['CONTOUR-INTERMEDIATE', 31],
      ['CONTOUR-INDEX', 33],
      ['CONTOUR-INTERMEDIATE', 35],
      ['CONTOUR-INDEX', 37],
      ['CONTOUR-INTERMEDIATE', 39],
    ]);
    for (const { geometry } of json.features) {
      expect(geometry.type).toBe('LineString');
      const z = geometry.coordinates[0]![2]!;
      expect(geometry.coordinates.every((c) => c[2] === z)).toBe(true);
      expect(geometry.coordinates.at(-1)).toEqual(geometry.coordinates[0]);
      // At height h over the foot the square's half side is 20 − 2 (h − 30).
      const half = Math.max(...geometry.coordinates.map((c) => Math.abs(c[0]! - 5_512_020)));
      expect(half).toBeCloseTo(20 - 2 * (z - 30), 3);
    }
  });

  test('state the version, both layers and the extent in the header', () => {
    expect(text).toContain('$ACADVER\n1\nAC1009');
    expect(text).toMatch(/\$EXTMIN\n10\n5512002/);
    expect(text.trimEnd().endsWith('EOF')).toBe(true);
  });
});

describe('a surface as LandXML 1.2', () => {
  const written = new Date(Date.UTC(2026, 2, 14, 10, 30));
  const text = [
    ...surfaceToLandXml(tin, {
      surfaceName: 'Bank & <crest>',
      projectName: 'East "reach"',
      unit: 'us-survey-foot',
      epsg: 2277,
      provenance: 'test',
      written,
    }),
  ].join('');

  test('is well-formed and holds every point as northing, easting, elevation and every face by point number', () => {
    expect(XMLValidator.validate(text)).toBe(true);
    const parsed = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '' }).parse(text) as {
      LandXML: {
        version: string;
        Units: { Imperial: { linearUnit: string } };
        CoordinateSystem: { epsgCode: string };
        Surfaces: {
          Surface: {
            name: string;
            Definition: {
              surfType: string;
              elevMax: string;
              Pnts: { P: { id: string; '#text': string }[] };
              Faces: { F: string[] };
            };
          };
        };
      };
    };
    const { LandXML } = parsed;
    expect(LandXML.version).toBe('1.2');
    expect(LandXML.Units.Imperial.linearUnit).toBe('USSurveyFoot');
    expect(LandXML.CoordinateSystem.epsgCode).toBe('2277');
    const { name, Definition } = LandXML.Surfaces.Surface;
    expect(name).toBe('Bank & <crest>');
    expect(Definition.surfType).toBe('TIN');
    expect(Definition.Pnts.P.map((p) => p['#text'])).toContain('6150020.0000 5512020.0000 40.0000');
    expect(Definition.Faces.F).toHaveLength(4);
    const ids = new Set(Definition.Pnts.P.map((p) => p.id));
    for (const face of Definition.Faces.F) for (const corner of face.split(' ')) expect(ids.has(corner)).toBe(true);
  });

  test('declares metres as metric', () => {
    const metric = [
      ...surfaceToLandXml(tin, { surfaceName: 's', projectName: 'p', unit: 'metre', provenance: '', written }),
    ].join('');
    expect(metric).toContain('<Metric linearUnit="meter"');
  });
});
