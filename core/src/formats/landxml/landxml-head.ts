import type { LengthUnit } from '../../geodesy/index.js';
import { escapeXml } from '../xml-text.js';

export interface LandXmlHead {
  readonly projectName: string;
  readonly unit: LengthUnit;
  readonly epsg?: number;
  readonly crsName?: string;
  /** Where it came from, in a sentence. */
  readonly provenance: string;
  readonly written: Date;
}

/** Unit elements of the LandXML 1.2 schema (types `Metric` and `Imperial`). */
const UNITS: Readonly<Record<LengthUnit, string>> = {
  metre:
    '<Metric linearUnit="meter" areaUnit="squareMeter" volumeUnit="cubicMeter" temperatureUnit="celsius" pressureUnit="HPA"/>',
  'us-survey-foot':
    '<Imperial linearUnit="USSurveyFoot" areaUnit="squareFoot" volumeUnit="cubicFeet" temperatureUnit="fahrenheit" pressureUnit="inHG"/>',
  'international-foot':
    '<Imperial linearUnit="foot" areaUnit="squareFoot" volumeUnit="cubicFeet" temperatureUnit="fahrenheit" pressureUnit="inHG"/>',
};

/** What a LandXML 1.2 file opens with, up to its first surface or feature. */
export function landXmlHead(options: LandXmlHead): string {
  const date = options.written.toISOString();
  const crs = [
    options.crsName && ` name="${escapeXml(options.crsName)}"`,
    options.epsg !== undefined && ` epsgCode="${options.epsg}"`,
  ]
    .filter(Boolean)
    .join('');
  return `<?xml version="1.0" encoding="UTF-8"?>
<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="http://www.landxml.org/schema/LandXML-1.2 http://www.landxml.org/schema/LandXML-1.2/LandXML-1.2.xsd" version="1.2" date="${date.slice(0, 10)}" time="${date.slice(11, 19)}" readOnly="false" language="English">
  <Units>${UNITS[options.unit]}</Units>
  ${crs && `<CoordinateSystem${crs}/>`}
  <Project name="${escapeXml(options.projectName)}"/>
  <Application name="Pampero" desc="${escapeXml(options.provenance)}"/>
`;
}
