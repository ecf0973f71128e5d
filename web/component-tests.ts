import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import ts from 'typescript';
import type { Plugin } from 'vite';

/** What inputs, outputs and queries made by functions are as decorators, with which a component is compiled where it runs. */
const AS_DECORATORS: Readonly<Record<string, (name: string, required: boolean, args: readonly string[]) => string>> = {
  input: (name, required) => `@Of.Input({ isSignal: true, alias: '${name}', required: ${required} } as never)`,
  model: (name, required) =>
    `@Of.Input({ isSignal: true, alias: '${name}', required: ${required} } as never) @Of.Output('${name}Change')`,
  output: (name) => `@Of.Output('${name}')`,
  viewChild: (_, __, args) => `@Of.ViewChild(${args[0]}, { isSignal: true } as never)`,
  viewChildren: (_, __, args) => `@Of.ViewChildren(${args[0]}, { isSignal: true } as never)`,
  contentChild: (_, __, args) => `@Of.ContentChild(${args[0]}, { isSignal: true } as never)`,
  contentChildren: (_, __, args) => `@Of.ContentChildren(${args[0]}, { isSignal: true } as never)`,
};

/**
 * Lets tests make components without Angular's compiler before them: templates beside the file are put into it, styles are left out, and
 * inputs, outputs and queries are told to the compiler that runs in the test.
 */
export function componentsInTests(): Plugin {
  return {
    name: 'components-in-tests',
    enforce: 'pre',
    transform(code, id) {
      const path = id.split('?')[0]!;
      if (!path.endsWith('.ts') || !/@(Component|Directive)\(/.test(code)) return undefined;
      const changes: { readonly from: number; readonly to: number; readonly text: string }[] = [];
      const file = ts.createSourceFile(path, code, ts.ScriptTarget.Latest, true);
      const put = (node: ts.Node, text: string): void =>
        void changes.push({ from: node.getStart(file), to: node.getEnd(), text });
      const visit = (node: ts.Node): void => {
        if (ts.isPropertyAssignment(node)) {
          const name = node.name.getText(file);
          if (name === 'templateUrl' && ts.isStringLiteral(node.initializer))
            put(node, `template: ${JSON.stringify(readFileSync(join(dirname(path), node.initializer.text), 'utf8'))}`);
          // One key is left, where a component has styles of its own and files of them.
          if (/^style(s|Url|Urls)$/.test(name)) put(node, '...{}');
        }
        if (ts.isPropertyDeclaration(node) && node.initializer && ts.isCallExpression(node.initializer)) {
          const { expression, arguments: args } = node.initializer;
          const isRequired = ts.isPropertyAccessExpression(expression) && expression.name.text === 'required';
          const called = (isRequired ? expression.expression : expression).getText(file);
          const text = AS_DECORATORS[called]?.(
            node.name.getText(file),
            isRequired,
            args.map((arg) => arg.getText(file)),
          );
          if (text) changes.push({ from: node.getStart(file), to: node.getStart(file), text: `${text} ` });
        }
        ts.forEachChild(node, visit);
      };
      visit(file);
      if (changes.length === 0) return undefined;
      let out = code;
      for (const { from, to, text } of changes.sort((a, b) => b.from - a.from))
        out = out.slice(0, from) + text + out.slice(to);
      return { code: `import * as Of from '@angular/core';\n${out}`, map: null };
    },
  };
}
