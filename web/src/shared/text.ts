import type { Boundary, Evidence, Model, Purpose, Reason, Region, Sort } from './api/types'

/** All words of the interface, by screen. Statistical terms are the field's own. */

const regions: Record<Region, string> = {
  neck: 'Neck',
  shoulder: 'Shoulder',
  elbow: 'Elbow',
  hand_wrist: 'Hand and wrist',
  trunk_back: 'Trunk and low back',
  pelvis: 'Pelvis',
  hip: 'Hip',
  knee: 'Knee',
  ankle_foot: 'Ankle and foot',
}
const purposes: Record<Purpose, string> = {
  pain_provocation: 'Provokes pain or symptoms',
  laxity: 'Laxity or instability',
  strength: 'Strength or lag',
  muscle_length: 'Muscle length',
  nerve_tension: 'Nerve tension',
  palpation: 'Palpation',
  observation: 'Observation',
  alignment: 'Measured alignment',
  functional_task: 'Functional task',
}
const evidence: Record<Evidence, string> = {
  not_studied: 'not studied',
  one_study: 'one study',
  few_studies: 'few studies',
  several_studies: 'several studies',
}
const sorts: Record<Sort, string> = {
  lr_positive: 'Strongest when positive (LR+)',
  lr_negative: 'Strongest when negative (LR−)',
  evidence: 'Most evidence',
  name: 'Name',
}
const models: Record<Model, string> = {
  single_study: 'One study by itself',
  bivariate: 'Bivariate random effects, exact binomial',
  independent: 'Random effects for each group by itself',
  fixed: 'No variance between studies',
}
const reasons: Record<Reason, string> = {
  single_study: 'there is only one study, so nothing was pooled',
  enough_studies: 'at least four studies report both groups of patients',
  few_studies: 'fewer than four studies report both groups, too few for a correlation',
  one_arm_only: 'every study reports the same group only',
  no_finite_maximum: 'in one group no study saw a single error (or a single correct result)',
  not_identified: 'these data do not identify a fuller model',
}
const boundaries: Record<Boundary, string> = {
  none: '',
  rho_minus_one:
    'The correlation between sensitivity and specificity is at its limit of −1; intervals may be too narrow.',
  rho_plus_one:
    'The correlation between sensitivity and specificity is at its limit of +1; intervals may be too narrow.',
  tau2_sens_zero: 'Studies do not differ in sensitivity beyond chance.',
  tau2_spec_zero: 'Studies do not differ in specificity beyond chance.',
  both_variances_zero: 'Studies do not differ beyond chance.',
}

export const text = {
  regions,
  purposes,
  evidence,
  sorts,
  models,
  reasons,
  boundaries,
  sample: 'sample data',
  sampleWhy: 'Made-up studies for demonstration stand behind this figure. Never use it for a patient.',
  caution:
    'Educational and decision-support material for licensed professionals and supervised learners. A result shifts a probability; it is not a diagnosis. Ask permission and explain first. Red flags and stop rules come before any test. Local protocols and your scope of practice rule.',
  unknown: 'not estimable',
  layout: {
    skip: 'Skip to the page',
    path: 'Path of the work',
    rail: 'Body regions, head to foot',
    tests: (n: number) => (n === 1 ? '1 test' : `${n} tests`),
    theme: (dark: boolean) => (dark ? 'Light colours' : 'Dark colours'),
    help: 'Keyboard shortcuts',
    lost: 'This page does not exist',
    lostDetail: 'The address may be mistyped, or the test was removed.',
    toCatalogue: 'Go to the catalogue',
    retry: 'Try again',
    undo: 'Undo',
    undone: 'Undone.',
    close: 'Close',
  },
  shortcuts: {
    title: 'Keyboard shortcuts',
    list: [
      ['/', 'Find a test by name or alias'],
      ['P', 'Set the pre-test probability'],
      ['↑ ↓', 'Move through the tests of the list'],
      ['Enter', 'Open the test'],
      ['N', 'New test'],
      ['A', 'Add a study (on a sheet)'],
      ['E', 'Edit the sheet (on a sheet)'],
      ['?', 'This list'],
    ] as [string, string][],
  },
  question: {
    label: 'The question',
    in: 'In',
    isIt: 'is it',
    before: 'Before testing',
    preTest: 'Pre-test probability in per cent',
    slider: 'Pre-test probability',
    region: 'Region',
    condition: 'Target condition',
    noCondition: 'no condition yet',
    usual: (p: string, setting: string) => `${p}: usual at ${setting}`,
    yours: 'your own value',
    unknown: 'no usual value known: set yours',
    range: 'Between 0.1 and 99.9',
  },
  outage: {
    serverTitle: 'The server does not answer',
    databaseTitle: 'The database does not answer',
    nothingLost: 'What you typed stays here. Pruvex tries again every two seconds.',
  },
  catalogue: {
    title: (region: string, n: number) =>
      `${region}: ${n === 0 ? 'no test' : n === 1 ? 'one test' : `${n} tests`}`,
    tally: (several: number, thin: number, none: number) =>
      [
        several ? `${several} with several studies` : '',
        thin ? `${thin} with thin evidence (faded)` : '',
        none ? `${none} not studied (hollow)` : '',
      ]
        .filter(Boolean)
        .join(' · '),
    search: 'Find by name or alias',
    sort: 'Order',
    reverse: 'Reverse the order',
    add: 'New test',
    test: 'Test',
    positive: 'if positive',
    negative: 'if negative',
    after: (p: string) => `from ${p}`,
    raises: 'a positive result raises',
    lowers: 'a negative result lowers',
    axis: 'likelihood ratio, log scale',
    notStudied: 'not studied',
    notEstimable: 'not estimable',
    studies: (n: number) => (n === 1 ? '1 study' : `${n} studies`),
    others: 'For other conditions of this region',
    othersNote: 'These answer another question, so no probabilities are given.',
    none: 'No test here yet',
    noneDetail: (region: string) => `The catalogue holds no test for: ${region}.`,
    noMatch: (search: string) => `No name or alias contains “${search}”.`,
    clear: 'Clear the search',
    failed: 'The list could not be loaded',
    ladderRow: (name: string, minus: string, plus: string) =>
      `${name}: negative likelihood ratio ${minus}, positive likelihood ratio ${plus}`,
    crowdTitle: (name: string) => `1 000 people like this patient, all tested with: ${name}`,
  },
  sheet: {
    aliases: 'Also called',
    targets: 'Stresses',
    condition: 'Meant to show',
    position: 'Position',
    steps: 'How it is done',
    finding: 'Positive when',
    cautions: 'Cautions',
    pitfalls: 'What goes wrong',
    nothing: 'Nothing written yet.',
    noCaution: 'No caution is written yet. That does not mean that there is none.',
    edit: 'Edit sheet',
    print: 'Print',
    failed: 'The sheet could not be loaded',
  },
  editor: {
    newTitle: 'New test',
    editTitle: (name: string) => `Edit: ${name}`,
    name: 'Name',
    nameHint: 'Plain and descriptive; a reversed or modified form is a test of its own',
    aliases: 'Other names for the very same test',
    region: 'Region',
    purpose: 'What it is for',
    condition: 'Target condition',
    conditionHint: 'Choose one, or type a new one',
    targets: 'Structures it stresses, and how',
    position: 'Position of the patient',
    steps: 'Steps, in order',
    finding: 'Positive finding',
    cautions: 'Cautions: whom not to do it on, when to stop',
    pitfalls: 'Pitfalls: what goes wrong, and which way it pushes the result',
    save: 'Save',
    cancel: 'Cancel',
    addItem: 'Add a line',
    removeItem: (n: number) => `Remove line ${n}`,
    up: (n: number) => `Move line ${n} up`,
    item: (label: string, n: number) => `${label}, line ${n}`,
    errors: (n: number) => (n === 1 ? 'One field needs attention' : `${n} fields need attention`),
    saved: 'Saved.',
    discard: 'Leave without saving? What you changed is lost.',
    conflictTitle: 'Somebody else saved this sheet while you were editing',
    conflictDetail:
      'Nothing was overwritten and your text is still here. Compare, then choose for each field.',
    mine: 'Yours',
    theirs: 'Saved meanwhile',
    takeTheirs: 'Take theirs',
    conflictDone: 'Done comparing: save mine as shown',
    same: 'Both texts say the same.',
  },
  study: {
    title: 'Studies',
    count: (k: number, patients: string) => `${k === 1 ? 'one study' : `${k} studies`}, ${patients} people`,
    add: 'Add a study',
    edit: 'Correct',
    remove: 'Delete',
    addTitle: 'Add a study',
    editTitle: 'Correct a study',
    reference: 'Reference',
    referenceHint: 'Authors, year, title, journal',
    population: 'Population',
    standard: 'Reference standard',
    counts: 'Counts',
    with: 'with the condition',
    without: 'without it',
    testPositive: 'test positive',
    testNegative: 'test negative',
    cells: { tp: 'True positives', fp: 'False positives', fn: 'False negatives', tn: 'True negatives' },
    oneArm: 'Leave both cells of a column empty when the study does not report that group.',
    live: 'What these counts say',
    liveEmpty: 'Fill in the four cells to see sensitivity, specificity and likelihood ratios.',
    save: 'Save study',
    removed: (reference: string) => `Deleted: ${reference}`,
    added: 'Study added.',
    corrected: 'Study corrected.',
    none: 'Not studied',
    noneDetail:
      'No study is entered for this test. Unknown is not the same as useless: nobody has measured it here.',
    conflict:
      'Somebody else changed this study meanwhile. Your figures are still here; theirs are shown below. Save again to replace them, or cancel.',
    theirs: 'Saved meanwhile',
    failed: 'The studies could not be loaded',
    sensitivity: 'Sensitivity',
    specificity: 'Specificity',
    study: 'Study',
    oneArmed: 'not reported',
    people: (correct: number, n: number) => `${correct} of ${n}`,
    summary: 'Summary',
    actions: 'Actions',
  },
  pooled: {
    title: 'Pooled answer',
    single: 'The one study',
    from: (k: number, diseased: string, others: string) =>
      `${k === 1 ? 'one study' : `${k} studies`}: ${diseased} people with the condition, ${others} without`,
    why: (model: string, reason: string) => `${model}, since ${reason}.`,
    notPooled: 'Nothing was pooled: there is only one study, with its own intervals.',
    level: (p: string) => `${p} intervals`,
    beside: 'Without the correlation',
    notConverged: 'The fit did not converge. Do not use these figures.',
    failed: 'The pooled answer could not be loaded',
    measures: {
      sensitivity: 'Sensitivity',
      specificity: 'Specificity',
      lr_positive: 'LR+',
      lr_negative: 'LR−',
      dor: 'Diagnostic odds ratio',
    },
    working: 'Working',
    workings: {
      sensitivity:
        'Inverse logit of the mean logit sensitivity between studies; interval from its standard error (observed information). Chu and Cole 2006.',
      specificity:
        'Inverse logit of the mean logit specificity between studies; interval from its standard error (observed information). Chu and Cole 2006.',
      lr_positive:
        'Sensitivity / (1 − specificity) at the summary point; interval by the delta method on the log scale. Likelihood ratios themselves are never averaged. Zwinderman and Bossuyt 2008.',
      lr_negative:
        '(1 − sensitivity) / specificity at the summary point; interval by the delta method on the log scale. Zwinderman and Bossuyt 2008.',
      dor: 'Exponential of the sum of both mean logits; interval by the delta method.',
    },
    singleWorkings: {
      sensitivity: 'True positives / people with the condition; Wilson score interval (1927).',
      specificity: 'True negatives / people without it; Wilson score interval (1927).',
      lr_positive:
        'Sensitivity / (1 − specificity); score interval for a ratio of two proportions (Koopman 1984), no correction.',
      lr_negative:
        '(1 − sensitivity) / specificity; score interval for a ratio of two proportions (Koopman 1984), no correction.',
      dor: 'TP × TN / (FP × FN); Woolf’s interval (1955), 0.5 added to every cell when one is zero.',
    },
    fit: (iterations: number, nodes: number) =>
      `Maximum likelihood by adaptive quadrature, ${nodes} nodes per dimension, ${iterations} Newton steps over all starts.`,
  },
  warning: {
    fewStudies: (n: number) =>
      `Only ${n} ${n === 1 ? 'study reports' : 'studies report'} both groups: the spread between studies is hardly estimable.`,
    oneArmed: (n: number) =>
      `${n === 1 ? 'One study reports' : `${n} studies report`} one group only and took part with that group.`,
    perfect: (n: string, upper: string, diseased: boolean) =>
      diseased
        ? `Nobody of ${n} was missed. Up to ${upper} missed cases are still compatible.`
        : `0 of ${n} were false positives. Up to ${upper} false positives are still compatible.`,
    hopeless: (n: string, upper: string) =>
      `Not one correct result among ${n} people; up to ${upper} are still compatible.`,
    conservative: 'The ratios’ bounds combine the ends of both intervals and are on the safe side.',
    variance: 'The spread between studies could not be estimated; the interval is widened by their scatter.',
    quadrature: 'These data are so extreme that the last digits are approximate.',
    noArm: (diseased: boolean) =>
      diseased
        ? 'Nobody with the condition was examined: sensitivity and the ratios are not estimable.'
        : 'Nobody without the condition was examined: specificity and the ratios are not estimable.',
    halfAdded: 'For the odds ratio 0.5 was added to every cell, since one is zero.',
    noPositive: 'Nobody was positive: LR+ is 0 divided by 0.',
    noNegative: 'Nobody was negative: LR− is 0 divided by 0.',
  },
  answer: {
    title: (p: string) => `What a result means, starting from ${p}`,
    positive: 'After a positive result',
    negative: 'After a negative result',
    otherCondition: (asked: string, target: string) =>
      `The question is about ${asked}; this test is meant to show ${target}. Choose that condition above to read its answers.`,
    crowd: (n: number) => `1 000 people: ${n} have the condition`,
    crowdPositive: (all: number, ill: number) => `${all} positive, of whom ${ill} have it`,
    crowdNegative: (all: number, ill: number) => `${all} negative, of whom ${ill} have it`,
    groups: {
      true_positive: 'have it, positive',
      false_negative: 'have it, missed',
      false_positive: 'do not, false alarm',
      true_negative: 'do not, negative',
    },
    none: 'Without a study a result cannot be turned into a probability.',
  },
}
