import { expect, it } from 'vitest'
import { jsonProblem } from './json-text'

it('says what is wrong with a record, and where', () => {
  expect(jsonProblem('{"id": "a"}')).toBe(null)
  expect(jsonProblem('[1]')).toBe('A record is a JSON object: {"field": value, …}.')
  expect(jsonProblem('null')).toBe('A record is a JSON object: {"field": value, …}.')
  expect(jsonProblem('{\n  "id": x\n}')).toContain('This is not JSON yet')
  expect(jsonProblem('{"id": "a"')).toContain('This is not JSON yet')
  expect(jsonProblem('')).toContain('This is not JSON yet')
})
