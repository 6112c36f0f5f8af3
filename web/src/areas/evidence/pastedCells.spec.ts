import { describe, expect, it } from 'vitest'

import { pastedCells, shownCells } from './pastedCells'

describe('pasted cells', () => {
  it.each([
    [
      '40\t9\r\n6\t45\r\n',
      [
        ['40', '9'],
        ['6', '45'],
      ],
    ],
    [
      '40;9\n\n6;45',
      [
        ['40', '9'],
        ['6', '45'],
      ],
    ],
    [
      '40, 9\n6, 45',
      [
        ['40', '9'],
        ['6', '45'],
      ],
    ],
    [
      '40 9\n  6   45',
      [
        ['40', '9'],
        ['6', '45'],
      ],
    ],
    // Decimal commas, with spaces or semicolons between the cells.
    [
      '12,5 13,0\n9,5 10,1',
      [
        ['12,5', '13,0'],
        ['9,5', '10,1'],
      ],
    ],
    ['12,5;13,0', [['12,5', '13,0']]],
    // Names of several words, and a cell that is missing.
    [
      '\tvery sure\tno\nvery sure\t40\t',
      [
        ['', 'very sure', 'no'],
        ['very sure', '40', ''],
      ],
    ],
    ['  \n', []],
  ])('reads %j', (pasted, rows) => {
    expect(pastedCells(pasted)).toEqual(rows)
    expect(pastedCells(shownCells(rows))).toEqual(rows)
  })
})
