import { describe, expect, test } from 'vitest';
import { crsFromGeoKeys, crsFromWkt, geoKeysForCrs, lengthUnits, parseLength } from './index.js';

describe('units', () => {
  test('a US survey foot is 1200/3937 m, an international one 0.3048 m: 11 m apart at 5 512 000', () => {
    expect(lengthUnits['us-survey-foot'].metres * 3937).toBeCloseTo(1200, 12);
    expect(lengthUnits['international-foot'].metres).toBe(0.3048);
    // 2 ppm of 5 512 000 m.
    expect(5_512_000 / 0.3048 - 5_512_000 / lengthUnits['us-survey-foot'].metres).toBeCloseTo(36.17, 2); // feet
  });

  test.each([
    ['8 in', 'metre', 0.2032],
    ['0.5 ft', 'metre', 0.1524],
    ['10cm', 'metre', 0.1],
    ['1,5', 'metre', 1.5],
    ['.25 m', 'us-survey-foot', 0.25 * (3937 / 1200)],
    ['6 in', 'us-survey-foot', 0.5],
    ['1 ft', 'us-survey-foot', 1],
    ['-3', 'metre', -3],
  ] as const)('"%s" in a job in %s is %f', (text, unit, length) => {
    expect(parseLength(text, unit)).toBeCloseTo(length, 12);
  });

  test.each(['', 'abc', '5 parsecs', '1.2.3', 'ft'])('"%s" is no length', (text) =>
    expect(parseLength(text, 'metre')).toBeUndefined(),
  );
});

describe('what files say of their coordinate system', () => {
  test('version 2 text with axis units and ID', () => {
    const wkt =
      'PROJCRS["ETRS89 / UTM zone 32N",BASEGEOGCRS["ETRS89",DATUM["x",ELLIPSOID["GRS 1980",6378137,298.257222101]],ID["EPSG",4258]],CONVERSION["UTM zone 32N",METHOD["Transverse Mercator"]],CS[Cartesian,2],AXIS["(E)",east,LENGTHUNIT["metre",1]],AXIS["(N)",north,LENGTHUNIT["metre",1]],ID["EPSG",25832]]';
    expect(crsFromWkt(wkt)).toMatchObject({ epsg: 25832, name: 'ETRS89 / UTM zone 32N', horizontalUnit: 'metre' });
  });

  test('degrees are told', () => {
    expect(
      crsFromWkt('GEOGCS["WGS 84",DATUM["x"],UNIT["degree",0.0174532925199433],AUTHORITY["EPSG","4326"]]'),
    ).toMatchObject({ epsg: 4326, isGeographic: true });
  });

  test('a US survey foot and an international one are told apart by their length alone', () => {
    const withUnit = (metres: number) => crsFromWkt(`PROJCS["x",UNIT["foot",${metres}]]`)?.horizontalUnit;
    expect(withUnit(0.304800609601219)).toBe('us-survey-foot');
    expect(withUnit(0.3048)).toBe('international-foot');
    expect(withUnit(1.8288)).toBeUndefined();
  });

  test('text nested a hundred thousand deep does no harm', () => {
    expect(() => crsFromWkt('PROJCS['.repeat(100_000))).not.toThrow();
  });

  test('GeoKeys come back as written', () => {
    const crs = { epsg: 5347, horizontalUnit: 'metre', verticalUnit: 'us-survey-foot' } as const;
    expect(crsFromGeoKeys(geoKeysForCrs(crs), '')).toEqual(crs);
  });

  test('a GeoKey directory that lies about its length is read as far as it goes', () => {
    expect(crsFromGeoKeys(Uint16Array.of(1, 1, 0, 9999, 3072, 0, 1, 5347), '')).toEqual({ epsg: 5347 });
    expect(crsFromGeoKeys(Uint16Array.of(7, 1), '')).toBeUndefined();
  });
});
