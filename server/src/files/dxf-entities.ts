import { FormatError } from '@pampero/core/formats';
import dxfParser from 'dxf-parser';

export interface DxfVertex {
  readonly x: number;
  readonly y: number;
  readonly z?: number;
}

/** What is read of a drawing's entities. */
export interface DxfEntity {
  readonly type: string;
  readonly layer?: string;
  readonly vertices?: readonly DxfVertex[];
  readonly shape?: boolean;
  readonly elevation?: number;
}

/** The package is CommonJS and is its parser, whatever its types say. */
const Parser = dxfParser as unknown as new () => {
  parseSync(text: string): { entities?: readonly DxfEntity[] } | null;
};

/** @throws FormatError `not-this-format` */
export function readDxfEntities(text: string, fileName: string): readonly DxfEntity[] {
  try {
    return new Parser().parseSync(text)?.entities ?? [];
  } catch (error) {
    throw new FormatError('not-this-format', {
      what: `${fileName} cannot be read as DXF: ${error instanceof Error ? error.message : String(error)}.`,
      fix: 'Save it as ASCII DXF.',
    });
  }
}
