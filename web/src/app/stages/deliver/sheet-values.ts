import { ruleOf, type ParameterField, type RunSheet, type SheetRule, type WorkStep } from '@pampero/contract';
import { readFigure } from '@pampero/core/geodesy';

/** A value of a step as it stands in a field: words and figures, rules in words. */
export function valueText(value: unknown, sheet: Pick<RunSheet, 'steps' | 'places'>): string {
  if (value === undefined || value === null) return '';
  if (Array.isArray(value)) return value.map((each) => valueText(each, sheet)).join(', ');
  const rule = ruleOf(value);
  if (rule) return ruleText(rule, sheet);
  return typeof value === 'object' ? JSON.stringify(value) : String(value as string | number | boolean);
}

function ruleText(rule: SheetRule, { steps, places }: Pick<RunSheet, 'steps' | 'places'>): string {
  if ('from' in rule) return `from ${steps.find(({ key }) => key === rule.from)?.title ?? rule.from}`;
  if ('place' in rule) return `given: ${places.find(({ key }) => key === rule.place)?.label ?? rule.place}`;
  if ('every' in rule) return `every ${rule.every}`;
  return `${rule.spacings} ${rule.spacings === 1 ? 'spacing' : 'spacings'}`;
}

/**
 * What was typed into a field, as the sheet keeps it; undefined where it was emptied and the default holds. "2 spacings" is a rule.
 * What cannot be read stays as it was typed and is refused with the field named when the sheet is kept.
 */
export function typedValue(text: string, field: Pick<ParameterField, 'type' | 'quantity'>): unknown {
  const typed = text.trim();
  if (typed === '') return undefined;
  const spacings = /^([\d.,]+)\s*spacings?$/i.exec(typed);
  if (spacings && field.quantity === 'length') {
    const read = readFigure(spacings[1]!);
    if ('value' in read) return { spacings: read.value };
  }
  if (field.type === 'boolean') return /^(yes|true|on)$/i.test(typed);
  if (field.type === 'array') {
    const parts = typed.split(/[,;\s]+/).filter(Boolean);
    return parts.every((part) => /^\d+$/.test(part)) ? parts.map(Number) : typed;
  }
  // A length keeps its unit, so that the sheet says the same in a job of another.
  if (field.quantity === 'length') return typed;
  if (field.type === 'number' || field.type === 'integer') {
    const read = readFigure(typed);
    return 'value' in read ? read.value : typed;
  }
  return typed;
}

/** Steps that a parameter may take something from: those before it that are turned on. */
export function sourcesBefore(sheet: Pick<RunSheet, 'steps'>, step: WorkStep): WorkStep[] {
  const at = sheet.steps.findIndex(({ key }) => key === step.key);
  return sheet.steps.slice(0, Math.max(0, at)).filter((each): each is WorkStep => each.kind === 'work' && !each.isOff);
}

/** A key that neither a step nor a place has. */
export function freeKey(words: string, { steps, places }: Pick<RunSheet, 'steps' | 'places'>): string {
  const stem =
    words
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^[^a-z]+|-+$/g, '')
      .slice(0, 34) || 'step';
  const taken = new Set([...steps, ...places].map(({ key }) => key));
  for (let n = 1; ; n++) {
    const key = n === 1 ? stem : `${stem}-${n}`;
    if (!taken.has(key)) return key;
  }
}
