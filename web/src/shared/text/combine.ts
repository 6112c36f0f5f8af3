/** Several tests read together. */
export const combineWords = {
  combine: {
    title: 'Battery of tests',
    about:
      'Several tests for one condition, read together (a test cluster): what each number of positive results means, and what a rule over them is worth. Dependence between the tests is always shown beside independence.',
    failed: 'The battery could not be calculated',
    none: 'No test for this question',
    noneDetail: 'Choose a condition that has tests with sensitivity and specificity.',
    choose: 'Tests of the battery',
    chooseDetail: 'Choose two to eight tests.',
    tests: {
      title: 'Tests',
      noFigures: 'no figures: cannot be calculated with',
      studies: (n: number) => (n === 1 ? '1 study' : `${n} studies`),
      which: (name: string) => `Which results of ${name}`,
      variant: 'Variant',
      criterion: 'Criterion',
      every: 'all',
      sheet: 'Sheet',
      sheetOf: (name: string) => `Sheet of ${name}`,
      unsaid: 'not reported',
      full: 'A battery has at most eight tests.',
    },
    rule: {
      title: 'Positive when',
      any: 'any is positive',
      all: 'all are positive',
      atLeast: (k: number) => `at least ${k} are positive`,
      short: (k: number, n: number) =>
        k === 1 ? 'any positive' : k === n ? 'all positive' : `at least ${k} of ${n} positive`,
    },
    stairs: {
      title: 'What each number of positive tests means',
      counts: 'Positive tests',
      probability: 'Probability after it, %',
      said: (steps: string) => `Probability of the condition by number of positive tests: ${steps}`,
      step: (count: number, p: string) => `${count} positive ${p}`,
      legend: (before: string) =>
        `Steps: with the dependence chosen, with their 95 % intervals. Dashed line: as if the tests were independent. Dotted line: before testing (${before}). Shaded: the rule is positive.`,
      table: 'The same in figures',
      lr: 'LR',
      after: 'Post-test probability',
      with: 'With the condition',
      without: 'Without it',
      never: 'happens to nobody',
    },
    figures: {
      title: (rule: string) => `The rule: ${rule}`,
      source: 'From',
      published: (n: number) => (n === 1 ? '1 study of this very rule' : `${n} studies of this very rule`),
      noPublished: 'No study of this very rule',
      dependent: (degree: string) => `Calculated, ${degree} dependence`,
      covariance: 'Calculated, covariance given',
      independent: 'Calculated, independent',
      bounds: 'Possible at all, whatever the dependence',
      best: 'use this',
      intervals:
        'Intervals of what is calculated: by squaring and adding each test’s own (Newcombe; Zou and Donner), with the correlation of its sensitivity and specificity. The dependence itself is taken as known: move it to see what it does.',
      differs: (what: string, by: string, to: 'higher' | 'lower') => `${what} ${by} ${to}`,
      differ: (parts: string) =>
        `What was found in studies of the rule differs from the calculation: ${parts}. Use the studies.`,
      agree: 'What was found in studies of the rule agrees with the calculation within 2 percentage points.',
      points: (n: number) => `${n} percentage points`,
      both: {
        no: 'This rule cannot raise both: no dependence brings sensitivity and specificity above those of every single test.',
        independent: (until: string) =>
          `This rule raises both sensitivity and specificity above those of every single test, up to a correlation of ${until}.`,
        always:
          'This rule raises both sensitivity and specificity above those of every single test at every correlation.',
        other:
          'This rule could raise both sensitivity and specificity above those of every single test only if the tests fail in different people more often than by chance.',
      },
      similar: 'Similar, not used',
      similarAbout: 'Results of other rules, or of other sets of tests. They do not enter the figures above.',
      otherRule: 'another rule',
      otherTests: 'other tests',
    },
    dependence: {
      title: 'Dependence between the tests',
      about:
        'Tests that load the same structure, or look for the same finding, tend to be right and wrong in the same people. Nobody has counted how much: try a plausible range.',
      shared: (one: string, other: string, structures: string) =>
        `${one} and ${other} both load: ${structures}`,
      sharedFinding: (one: string, other: string, structures: string, finding: string) =>
        `${one} and ${other} both load: ${structures}; purpose of both: ${finding}`,
      noShared: 'No structure is common to these tests by their sheets. They can still depend on each other.',
      slider: 'Conditional dependence',
      degree: (degree: string, value: string) => `${degree} (correlation ${value})`,
      with: 'In people with the condition',
      without: 'In people without it',
      kind: 'Said as',
      kinds: { correlation: 'a correlation', covariance: 'a covariance (two tests)' },
      range: (from: string, to: string) => `These tests allow ${from} to ${to}.`,
      apart: 'Another one in people without the condition',
    },
    added: {
      title: 'What each test adds',
      about: 'The rule with each test left out in turn, with the dependence chosen.',
      test: 'Without',
      adds: 'It adds',
      change: (sens: string, spec: string) => `sensitivity ${sens}, specificity ${spec}`,
      points: (n: number) => (n === 0 ? '±0' : n > 0 ? `+${n}` : `−${-n}`),
    },
    compare: {
      keep: 'Keep for comparison',
      title: 'Compared with the battery kept',
      drop: 'Remove the kept battery',
      swap: 'Exchange both',
      this: 'This battery',
      kept: 'Kept battery',
      from: 'Figures from',
      rows: {
        tests: 'Tests',
        rule: 'Rule',
        sensitivity: 'Sensitivity',
        specificity: 'Specificity',
        lr_positive: 'LR+',
        lr_negative: 'LR−',
        all_positive: 'All tests positive',
        all_negative: 'All tests negative',
      },
      calculated: 'the calculation',
      failed: 'The kept battery cannot be calculated any more:',
    },
    claim: {
      title: 'Check a claim',
      about:
        'Type what a paper, a slide or a video says of these tests read together. The page says whether that can be true at all, whatever the dependence between them.',
      rule: 'Positive when',
      sensitivity: 'Sensitivity, %',
      specificity: 'Specificity, %',
      add: 'Another claim',
      remove: 'Remove this claim',
      singles: 'Single figures',
      singlesOf: {
        catalogue: 'as in this catalogue',
        typed: 'as the claim’s source gives them',
      },
      single: (name: string) => `${name}:`,
      possible: 'Possible',
      loosely: 'Possible only if the single figures differ',
      impossible: 'Impossible',
      tooHigh: (what: string, most: string) => `${what}: at most ${most} is possible.`,
      tooLow: (what: string, least: string) => `${what}: at least ${least} is certain.`,
      within: (what: string, from: string, to: string) =>
        `${what}: anything from ${from} to ${to} is possible.`,
      shift: (what: string, by: string, higher: boolean) =>
        `It would take every single ${what} to be ${by} ${higher ? 'higher' : 'lower'}.`,
      never: 'No single figures make it possible.',
      looseRounding: 'Only because the single figures are rounded.',
      looseInterval: 'Only if the true single figures lie elsewhere in their intervals.',
      independent: (what: string) => `Independent tests would give ${what}.`,
      needs: (what: string, from: string, to: string) =>
        from === to
          ? `The claimed ${what} needs a correlation of about ${from}.`
          : `The claimed ${what} needs a correlation between ${from} and ${to}.`,
      needsOther: (what: string) =>
        `The claimed ${what} needs tests that fail in different people more often than by chance.`,
      together: 'All claims can be true of the same people.',
      apart: (what: string, by: string) =>
        `They cannot all be true of the same people: the ${what} figures contradict each other by at least ${by}.`,
      halfEven: 'Only where a half is rounded to the even digit.',
      sens: 'sensitivity',
      spec: 'specificity',
    },
    columns: {
      sensitivity: 'Sensitivity',
      specificity: 'Specificity',
      lr_positive: 'LR+',
      lr_negative: 'LR−',
    },
    sens: 'Sensitivity',
    spec: 'Specificity',
  },
}
