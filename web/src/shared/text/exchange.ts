/** Import and export. */
export const exchangeWords = {
  exchange: {
    title: 'Import and export',
    outTitle: 'Export',
    outAbout:
      'Sheets, studies with their results, appraisals, double extractions, references, conditions, structures and examination plans in one open file that this program, or any other, can read. Archived sheets and plans are not included, and no plan of which a test is left out.',
    whole: 'The whole catalogue',
    tableTitle: 'Studies and results as a table',
    tableAbout:
      'Results of this region, one per row, for spreadsheets and statistics programs. Rows with the same study number are of the same patients.',
    tables: { xlsx: 'Workbook (XLSX)', csv: 'CSV' } as Record<string, string>,
    only: (region: string) => `Only: ${region}`,
    inTitle: 'Import a bundle',
    inAbout:
      'A bundle is imported completely or not at all; its sheets arrive as drafts. A preview comes first.',
    choose: 'Choose a file',
    faults: (n: string) =>
      n === '1'
        ? 'Nothing was imported: 1 error in the file'
        : `Nothing was imported: ${n} errors in the file`,
    where: 'Where',
    what: 'What is wrong, and what to do',
    fates: { new: 'new', same: 'identical', changed: 'different' } as Record<string, string>,
    replace: (name: string) => `Replace ${name}`,
    keep: 'Tick the sheets that the file may replace; the history keeps both versions. The others stay as they are.',
    results: (fresh: number, known: number, agreements: number) =>
      [
        fresh ? `${fresh} new ${fresh === 1 ? 'result' : 'results'}` : '',
        known ? `${known} ${known === 1 ? 'result' : 'results'} already in the catalogue` : '',
        agreements ? `${agreements} new agreement ${agreements === 1 ? 'result' : 'results'}` : '',
      ]
        .filter(Boolean)
        .join(', ') || 'none',
    summary: (fresh: number, changed: number, same: number) =>
      `${fresh} new, ${changed} different, ${same} identical`,
    references: (n: number) => (n === 1 ? '1 new reference' : `${n} new references`),
    plans: (n: number) => (n === 1 ? '1 new examination plan' : `${n} new examination plans`),
    studies: (n: number) => (n === 1 ? '1 new study' : `${n} new studies`),
    bring: 'Import',
    other: 'Choose another file',
    done: (title: string) => `Imported: ${title}`,
    test: 'Test',
    state: 'In the catalogue',
    result: 'Results',
  },
  pastImports: {
    title: 'Recent imports',
    about:
      'Each can be undone as one, as long as nobody has changed what it brought or built on it. Histories keep both.',
    failed: 'The imports could not be loaded',
    none: 'Nothing was imported yet.',
    file: 'File',
    what: 'Added',
    who: 'By',
    undo: 'Undo import',
    undoOf: (name: string) => `Undo import: ${name}`,
    more: 'Show all',
    kinds: {
      bundle: 'Bundle',
      table: 'Studies and results from a table',
      references: 'References',
    } as Record<string, string>,
    brought: (n: Record<string, number>) => {
      const words: [string, string, string][] = [
        ['tests', 'test', 'tests'],
        ['studies', 'study', 'studies'],
        ['results', 'result', 'results'],
        ['agreements', 'agreement result', 'agreement results'],
        ['references', 'reference', 'references'],
        ['conditions', 'condition', 'conditions'],
        ['structures', 'structure', 'structures'],
        ['teaching_conflicts', 'entry of conflicting teaching', 'entries of conflicting teaching'],
        ['plans', 'examination plan', 'examination plans'],
      ]
      const added = words
        .filter(([key]) => n[key])
        .map(([key, one, more]) => `${n[key]} ${n[key] === 1 ? one : more}`)
      if (n.changed) added.push(`${n.changed} changed`)
      return added.join(', ') || 'double extractions'
    },
    by: (who: string | null, at: string) => `${who ?? 'the installation'}, ${at}`,
    undone: (who: string | null, at: string) => `undone${who ? ` by ${who}` : ''}, ${at}`,
    sure: (name: string) => `Undo the import of ${name}?`,
    goes: (what: string) =>
      `It brought: ${what}. Added records are deleted; changed ones say again what they said before.`,
    refused: 'This import cannot be undone: something was changed or built on it since.',
    done: (name: string) => `Import undone: ${name}`,
  },
  tableImport: {
    title: 'Studies and results from a table',
    about:
      'A workbook (.xlsx) or CSV file with one result per row, from any source: you say what each column holds. It is imported completely or not at all, after a preview. Formulas and macros are never run.',
    template: 'An empty workbook to fill in',
    templateAbout: 'It explains every column. Tables exported from this program can be imported here too.',
    choose: 'Choose a table',
    tooLarge: (size: number, most: number) =>
      `This file has ${size} MB; the limit is ${most} MB. Split it into several files.`,
    sheet: 'Sheet',
    header: 'Column headings are in row',
    rows: (n: string) => `${n} rows below`,
    columns: 'What each column holds',
    column: 'Column',
    examples: 'First values',
    holds: 'Holds',
    leftOut: 'not imported',
    remembered: 'as last time',
    leftOutList: (names: string) => `Not imported: ${names}`,
    needed: 'Still needed: a column for',
    needs: {
      test: 'the name of the test',
      reference: 'the reference',
      pair: 'the other cell of a group: true positives go with false negatives, true negatives with false positives',
      counts: 'the four cells, or a printed figure with the number of people it is of',
    } as Record<string, string>,
    check: 'Check the rows',
    leaving: 'Leaving this page stops it; nothing is changed then.',
    faults: (n: string) => `Nothing can be imported: ${n} ${n === '1' ? 'error' : 'errors'} in the file`,
    shownFaults: (shown: string, all: string) =>
      `The first ${shown} of ${all} are listed. Correct them here, or in the file and choose it again.`,
    correct: 'Correct them here, or in the file and choose it again.',
    mend: {
      title: 'Corrected while importing (the file stays as it is)',
      becomes: 'Read it as',
      value: 'Value',
      remedy: 'What to do',
      label: (place: string) => `Correct value of ${place}`,
      more: (n: string) => `and ${n} more`,
      apply: (n: number) =>
        n === 0
          ? 'Apply corrections and check again'
          : n === 1
            ? 'Apply 1 correction and check again'
            : `Apply ${n} corrections and check again`,
      use: (name: string) => `Use “${name}”`,
      list: 'List of errors (CSV)',
      rows: 'Faulty rows (CSV)',
      rowInFile: 'Row in the file',
      draft: 'Write a draft sheet',
      draftTitle: (name: string) => `Draft sheet: ${name}`,
      draftAbout: (region: string) =>
        `It is written together with the table, in ${region.toLowerCase()}, and completed later. Another region: choose it at the top of the page first.`,
      purpose: 'Purpose of the test',
      condition: 'Target condition',
      finding: 'Positive finding',
      write: 'Add the draft and check again',
      drafted: (name: string) => `Draft sheet for “${name}”`,
      takeBack: 'Undo',
      inCell: (cell: string, becomes: string) => (becomes ? `${cell}: “${becomes}”` : `${cell}: empty`),
      everywhere: (field: string, was: string, becomes: string) =>
        `${field}: every “${was}” is read as ${becomes ? `“${becomes}”` : 'empty'}`,
    },
    drafts: (names: string) => `Draft sheets are written for: ${names}.`,
    standards: {
      title: 'Reference standards that the catalogue does not have under this name',
      about:
        'They are imported as they are. Use an existing name where the same is meant, so that pools can be filtered by it.',
      results: (n: number) => (n === 1 ? '(1 result)' : `(${n} results)`),
    },
    inColumn: (letter: string, header: string) => (header ? `${letter}: ${header}` : letter),
    summary: (results: number, studies: number, tests: number) =>
      `${results === 1 ? '1 new result' : `${results} new results`} of ${studies === 1 ? '1 new study' : `${studies} new studies`}, at ${tests === 1 ? '1 test' : `${tests} tests`}`,
    ofKnown: (results: number, tests: number) =>
      `${results === 1 ? '1 new result' : `${results} new results`} of studies already in the catalogue, at ${tests === 1 ? '1 test' : `${tests} tests`}`,
    nothing: 'Everything in this file is already in the catalogue.',
    known: (n: number) =>
      n === 1
        ? '1 result is already in the catalogue and stays unchanged.'
        : `${n} results are already in the catalogue and stay unchanged.`,
    alike: (rows: string) =>
      `Check ${rows}: the catalogue has a study of this reference with a different description. If these are the same patients, they would be counted twice.`,
    row: (n: number) => `row ${n}`,
    rowNumber: 'Row',
    more: (n: number) => `${n} more`,
    understood: 'Preview of the rows',
    firstRows: (n: string) => `The first ${n}`,
    shares: { sensitivity: 'Sensitivity', specificity: 'Specificity' },
    here: 'already in the catalogue',
    bring: 'Import',
    done: (results: number) => (results === 1 ? 'Imported: 1 result.' : `Imported: ${results} results.`),
    again: 'Import another table',
    fields: {
      test: 'Name of the test',
      region: 'Body region',
      study: 'Number of the study',
      reference: 'Reference',
      doi: 'DOI',
      study_note: 'Notes about the study',
      note: 'Notes about the result',
      preferred: 'Preferred for pooling',
      sample_data: 'Sample data',
      sensitivity: 'Sensitivity, as printed',
      specificity: 'Specificity, as printed',
      with_condition: 'People with the condition',
      without_condition: 'People without it',
      reference_year: 'Year of the reference',
    } as Record<string, string>,
    groups: { result: 'The result', study: 'The study', printed: 'Printed figures' } as Record<
      string,
      string
    >,
  },
}
