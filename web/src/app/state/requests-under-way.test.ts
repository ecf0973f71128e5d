import { Subject, throwError } from 'rxjs';
import { expect, test } from 'vitest';
import { RequestsUnderWay } from './requests-under-way';

test('waits for all that was sent, whether it was answered, failed or was given up', () => {
  const requests = new RequestsUnderWay();
  let isFree = false;
  const answer$ = new Subject<number>();
  const given: number[] = [];
  requests.with(answer$).subscribe((value) => given.push(value));
  const leftAlone = requests.with(new Subject()).subscribe();
  requests.with(throwError(() => new Error('refused'))).subscribe({ error: () => undefined });
  requests.none().subscribe(() => (isFree = true));
  answer$.next(7);
  answer$.complete();
  expect([given, isFree]).toEqual([[7], false]);
  leftAlone.unsubscribe();
  expect(isFree).toBe(true);
});

test('a request counts from when it is sent, not from when it is made ready', () => {
  const requests = new RequestsUnderWay();
  requests.with(new Subject());
  let isFree = false;
  requests.none().subscribe(() => (isFree = true));
  expect(isFree).toBe(true);
});
