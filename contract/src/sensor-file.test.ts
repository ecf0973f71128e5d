import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import { georeferenceScan, readSensorFile, sensorFileSchema, sensorOfSettings, settingsOfSensor } from './index.js';

const least = { format: 'pampero-sensor', version: 1 };
const read = (given: unknown): ReturnType<typeof readSensorFile> => readSensorFile(JSON.stringify(given));

describe('a sensor file', () => {
  test('is described by a published schema (JSON Schema 2020-12)', async () => {
    const schema = z.toJSONSchema(sensorFileSchema, { io: 'input', unrepresentable: 'any' });
    const path = fileURLToPath(new URL('../../docs/sensor.schema.json', import.meta.url));
    await expect(`${JSON.stringify(schema, undefined, 2)}\n`).toMatchFileSnapshot(path);
  });

  test('goes into the form and comes out of it as it was, in every unit', () => {
    const given = {
      ...least,
      name: 'Scanner on the bank',
      leverArm: { forward: 0.1, right: -0.05, down: 0.2 },
      boresight: { roll: 0.11, pitch: -0.08, heading: 0.15 },
      mounting: { roll: 0, pitch: 90, heading: 0 },
      rangeOffset: 0.012,
      rangeScale: 15,
      angleScale: -40,
      rangeNoise: 0.015,
      beamDivergence: 0.6,
      fieldOfView: 90,
      shortestRange: 2,
      longestRange: 400,
    };
    const file = read(given);
    if (!('sensor' in file)) throw new Error(file.fault);
    for (const unit of ['metre', 'us-survey-foot', 'international-foot'] as const) {
      const settings = settingsOfSensor(file.sensor, unit);
      const parsed = georeferenceScan.parameters(unit).parse({ trajectory: 1, ...settings });
      const back = settingsOfSensor(sensorOfSettings(parsed, unit, 'Scanner on the bank'), 'metre');
      for (const [name, value] of Object.entries(settingsOfSensor(file.sensor, 'metre')))
        expect((back as Record<string, number>)[name], name).toBeCloseTo(value, 7);
    }
    // NIST Handbook 44: the US survey foot is 1200/3937 m.
    expect(settingsOfSensor(file.sensor, 'us-survey-foot').leverForward).toBeCloseTo((0.1 * 3937) / 1200, 9);
    expect(settingsOfSensor(file.sensor, 'metre').widest).toBe(45);
  });

  test('what it leaves out is nothing, or stays as the form has it', () => {
    const file = read(least);
    if (!('sensor' in file)) throw new Error(file.fault);
    const settings = settingsOfSensor(file.sensor, 'metre');
    expect(settings).toMatchObject({ leverForward: 0, boresightRoll: 0, mountingPitch: 0, rangeOffset: 0 });
    for (const name of ['rangeNoise', 'beamDivergence', 'widest', 'shortest', 'longest'])
      expect(settings).not.toHaveProperty(name);
  });

  test('is refused with what is wrong in it', () => {
    const fault = (text: string): string => {
      const found = readSensorFile(text);
      return 'fault' in found ? found.fault : '';
    };
    expect(fault('range,angle')).toMatch(/not JSON/);
    expect(fault('null')).toMatch(/"format" is not/);
    expect(fault('{"format":"pampero-run-sheet"}')).toMatch(/"format" is not "pampero-sensor"/);
    expect(fault(JSON.stringify({ ...least, version: 2 }))).toMatch(/version/);
    expect(fault(JSON.stringify({ ...least, leverArm: { forward: 'far' } }))).toMatch(/leverArm\.forward: /);
    expect(fault(JSON.stringify({ ...least, colour: 'red' }))).toMatch(/colour/);
    for (const text of [JSON.stringify({ ...least, rangeNoise: -1 }), JSON.stringify({ ...least, unit: 'yard' })])
      expect(fault(text)).not.toMatch(/expected|invalid_|Invalid input/);
  });
});
