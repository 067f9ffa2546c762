import { describe, expect, it } from 'vitest'
import { asShown, csv } from './csv'

describe('a table as CSV', () => {
  it('has every cell as it is, and quotes where they are needed', () => {
    expect(
      csv([
        ['a', 1.5],
        ['x, "y"', 'two\nlines'],
      ]),
    ).toBe('a,1.5\r\n"x, ""y""","two\nlines"\r\n')
  })
  it('holds nothing that a spreadsheet would carry out', () => {
    expect(csv([['=1+1', '@x', '-x', '+1+1', '-1']])).toBe("'=1+1,'@x,'-x,'+1+1,-1\r\n")
    expect(csv([['+0.020', '1,234', '-', '+']])).toBe('+0.020,"1,234",\'-,\'+\r\n')
  })
})

describe('a cell as it is shown', () => {
  it('is on one line, and a number has a sign that programs know', () => {
    expect(asShown('  fog \n bell ')).toBe('fog bell')
    expect(asShown('\u22120.028')).toBe('-0.028')
    expect(asShown('\u2212 x')).toBe('\u2212 x')
  })
})
