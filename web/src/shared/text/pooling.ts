import type {
  Facet,
  IntervalChoice,
  NoComparison,
  NotTested,
  RatioWorking,
  ReferenceFlag,
  ShareWorking,
  Shift,
  StudySpread,
  UninterpretableAs,
} from '../api/types'

/** Summary estimates and what they depend on. */
export const poolingWords = {
  pooled: {
    title: 'Summary estimate',
    single: 'The only study',
    from: (k: number, diseased: string, others: string) =>
      `${k === 1 ? 'one study' : `${k} studies`}: ${diseased} people with the condition, ${others} without`,
    why: (model: string, reason: string) => `${model}, since ${reason}.`,
    notPooled: 'Nothing was pooled: there is only one study, with its own intervals.',
    level: (p: string) => `${p} intervals`,
    beside: 'Without the correlation',
    classical: 'Maximum likelihood, Wald',
    showClassical: 'Show maximum likelihood beside it',
    hideClassical: 'Hide maximum likelihood',
    posterior: (scale: number, fit: string) =>
      `Posterior medians with equal-tailed intervals: bivariate model, exact likelihood, weak priors (scale ${scale}). By maximum likelihood: ${fit}`,
    intervals: {
      auto: 'Posterior up to 20 studies, then profile likelihood',
      posterior: 'Posterior, weak priors',
      profile: 'Profile likelihood',
      sandwich: 'Scatter of the studies (t)',
      wald: 'Wald',
    } as Record<IntervalChoice, string>,
    earlier: 'This estimate is from an earlier version of Pruvex and is being computed again.',
    notConverged: 'The fit did not converge. Do not use these figures.',
    failed: 'The summary estimate could not be loaded',
    measures: {
      sensitivity: 'Sensitivity',
      specificity: 'Specificity',
      lr_positive: 'LR+',
      lr_negative: 'LR−',
      dor: 'Diagnostic odds ratio',
    },
    working: 'Working',
    formulas: {
      sensitivity: 'True positives / people with the condition.',
      specificity: 'True negatives / people without the condition.',
      lr_positive: 'Sensitivity / (1 − specificity).',
      lr_negative: '(1 − sensitivity) / specificity.',
      dor: 'Odds of a positive result with the condition / odds without it: TP × TN / (FP × FN).',
    },
    shareWorkings: {
      one_study: () => 'Wilson score interval (1927).',
      model: (method: string) =>
        `At the summary point, the inverse logit of the mean logit. Method: ${method}.`,
      posterior: (method: string) => `Posterior median and equal-tailed interval. Method: ${method}.`,
      scatter: (method: string) =>
        `The inverse logit of the group’s own mean logit, its interval from the studies’ own scatter. Method: ${method}.`,
      pooled_exact: () =>
        'All people of the group together, since a mean logit has no finite estimate; one-sided exact interval (Clopper and Pearson 1934).',
      none: () => 'Nobody was examined.',
    } as Record<ShareWorking, (method: string) => string>,
    ratioWorkings: {
      one_study: 'Score interval for a ratio of two proportions (Koopman 1984), no correction.',
      delta:
        'At the summary point; interval by the delta method on the log scale. Likelihood ratios themselves are never averaged (Zwinderman and Bossuyt 2008).',
      delta_scatter:
        'At the summary point; interval by the delta method on the log scale, from the studies’ own scatter and the t distribution. Likelihood ratios themselves are never averaged (Zwinderman and Bossuyt 2008).',
      combined_intervals:
        'At the summary point; the intervals of sensitivity and specificity combined with their correlation (Zou 2007). Likelihood ratios themselves are never averaged (Zwinderman and Bossuyt 2008).',
      posterior:
        'At the summary point; median and equal-tailed interval of its joint posterior. Likelihood ratios themselves are never averaged (Zwinderman and Bossuyt 2008).',
      combined_ends: 'From both shares; every combination of the ends of their intervals.',
      none: 'One of the two groups is missing.',
    } as Record<RatioWorking, string>,
    singleOdds: 'Woolf’s interval (1955), 0.5 added to every cell when one is zero.',
    fit: (iterations: number, nodes: number) =>
      `Maximum likelihood by adaptive quadrature, ${nodes} nodes per dimension, ${iterations} Newton steps over all starts.`,
  },
  pool: {
    title: 'Pooling',
    about: 'Choose which results are pooled. Excluded results say why; sensitivity analyses are below.',
    tests: 'Results of',
    choose: 'Which results should be pooled?',
    chooseDetail: (condition: string) => `Tests with results${condition && ` for: ${condition}`}.`,
    noTests: 'No test has results for this question yet',
    noTestsDetail: 'Results are added on the sheet of their test.',
    results: (n: number) => (n === 1 ? 'one result' : `${n} results`),
    aTest: 'a test that is not listed here',
    which: 'Filter results',
    active: (n: number) => `${n} set`,
    clear: 'Take all results',
    from: 'From year',
    until: 'To year',
    by: 'Compare by',
    nothingToCompare: 'nothing',
    model: 'Model',
    intervals: 'Intervals',
    usualIntervals: 'default',
    methods: 'Methods paragraph',
    copy: 'Copy',
    copied: 'Copied',
    order: 'Sort rows',
    figure: 'Export the figures as',
    kept: (kept: number, all: number, people: string, sides: number) =>
      [
        `${kept} of ${all === 1 ? 'one result' : `${all} results`} pooled`,
        people && `, ${people} people`,
        people && sides > 0 && ` (${sides === 1 ? 'one result counts' : `${sides} results count`} sides)`,
      ]
        .filter(Boolean)
        .join(''),
    facets: {
      test: 'Test',
      variant: 'Variant',
      criterion: 'Counted as positive',
      stage: 'Stage',
      reference_standard: 'Reference standard',
      unit: 'Counted',
      design: 'Design',
      recruitment: 'Recruitment',
      setting: 'Setting',
      activity: 'Activity',
      course: 'Course',
      state: 'Examined while',
      source: 'Figures from',
      risk_of_bias: 'Risk of bias',
    } as Record<Facet, string>,
    notSaid: {
      variant: 'as the sheet teaches',
      criterion: 'as the sheet teaches',
      stage: 'any, or not reported',
      risk_of_bias: 'not judged',
      other: 'not reported',
    } as Partial<Record<Facet | 'other', string>>,
    choices: {
      auto: 'automatic',
      bivariate: 'Bivariate, exact binomial',
      independent: 'Separate random effects',
      fixed: 'Fixed effect',
      normal_reml: 'Normal approximation (REML)',
    } as Record<string, string>,
    orders: {
      entered: 'as entered',
      label: 'by report',
      year: 'by year',
      sensitivity: 'by sensitivity',
      specificity: 'by specificity',
      weight: 'by weight',
    },
    none: 'No result is in the pool',
    noneDetail: 'The choices leave nothing to pool. Below is why each result is out.',
    notIdentified: 'This model has no answer for these results',
    notIdentifiedDetail: 'Choose the exact model, or take more results.',
    noInterval: 'These intervals do not go with this model or these results',
    noIntervalDetail:
      'Posterior intervals belong to the bivariate model. Intervals from the scatter of the studies need two studies of each group, with an error and a correct result. Choose other intervals, or leave the model open.',
    tooMany: 'These are more results than can be pooled',
    tooManyDetail: 'Filter the results.',
    failed: 'The pool could not be computed',
    ahead: 'Prediction interval',
    aheadHint:
      'Where the true value of a new, similar study is expected. With posterior intervals from the same posterior; otherwise summary ± t(k − 2) × √(variance between studies + variance of the mean), after Higgins, Thompson and Spiegelhalter 2009, who give it for one quantity; for the ratios it is our extension.',
    weight: 'Weight',
    weightHint:
      'Share of what is known of the mean: 1 / (variance between studies + 1 / (n p (1 − p))). The exact model has no weights; this is how it would weigh each group by itself.',
    take: (label: string) => `Pool ${label}`,
    inPool: 'In',
    allOn: 'Include all again',
    out: (n: number) => (n === 1 ? 'One result is excluded' : `${n} results are excluded`),
    why: {
      together: 'several tests combined',
      other_condition: 'another target condition',
      years: 'other years, or year not reported',
      switched_off: 'excluded by hand',
      same_people: 'another result of the same patients is pooled',
      own_records: 'own examination records: choose them under “Figures from” to pool them',
    } as Record<string, string>,
    otherFacet: (facet: string) => `${facet}: not what was asked for`,
    whyFacet: (facet: string, said: string) => `${facet}: ${said}`,
    onlyCompared: {
      same_people: 'in the comparison only: another result of the same patients is pooled',
      own_records: 'in the comparison only: own examination records',
    } as Record<string, string>,
    summaryOf: (name: string) => `Summary: ${name}`,
    overall: 'Overall summary',
    reading: {
      title: 'In words',
      positive: {
        reversed: 'A positive result lowers the probability of the condition',
        slight: 'A positive result hardly raises the probability',
        small: 'A positive result raises the probability a little',
        moderate: 'A positive result raises the probability clearly',
        large: 'A positive result raises the probability strongly',
      } as Record<Shift, string>,
      negative: {
        reversed: 'a negative result raises it',
        slight: 'a negative result hardly lowers it',
        small: 'a negative result lowers it a little',
        moderate: 'a negative result lowers it clearly',
        large: 'a negative result lowers it strongly',
      } as Record<Shift, string>,
      oneOnly: 'Only one of the two likelihood ratios can be estimated.',
      unknown: 'Neither likelihood ratio can be estimated from these results.',
      joined: (positive: string, lr: string, negative: string, other: string) =>
        `${positive} (LR+ ${lr}), ${negative} (LR− ${other}).`,
      single: (said: string, lr: string) => `${said} (${lr}).`,
      spread: {
        not_known: 'There are too few studies to estimate heterogeneity.',
        none_estimated: 'No spread between studies was estimated; few studies cannot rule it out.',
        moderate: 'A new study is expected to agree on what a result means.',
        wide: 'Studies are heterogeneous: in a new one a result may truly mean more or less than this.',
        across_one:
          'Studies are so heterogeneous that in a new one the test may truly have no diagnostic value.',
      } as Record<StudySpread, string>,
      limits: {
        single: 'It rests on a single study.',
        few: (n: number) =>
          `Only ${n} ${n === 1 ? 'study reports' : 'studies report'} patients with and without the condition.`,
        noErrors: (n: string, diseased: boolean) =>
          diseased
            ? `None of ${n} patients with the condition was missed; this does not prove 100 % sensitivity.`
            : `None of ${n} patients without the condition was positive; this does not prove 100 % specificity.`,
        crossesOne: (name: string) =>
          `The interval of ${name} includes 1: compatible with no diagnostic value.`,
        highRisk: (n: number, of: number) => `${n} of ${of} results are at high risk of bias.`,
        notAppraised: (n: number, of: number) =>
          `${n} of ${of} results are not appraised, or not in all domains.`,
        standards: (n: number) => `The studies used ${n} different reference standards.`,
        correlation: 'The correlation is at its limit, so that intervals may be too narrow.',
        negativesUnverified: (n: number, of: number) =>
          `In ${n} of ${of} results fewer than half of the patients with a negative test had the reference standard: sensitivity is probably overestimated (partial verification).`,
        includesTest: (n: number, of: number) =>
          `In ${n} of ${of} results the test was part of the reference standard: accuracy is probably overestimated (incorporation bias).`,
        lowAgreement: (coefficient: string, word: string) =>
          `Agreement between examiners or occasions is low: ${coefficient}, ${word}.`,
      },
      bands:
        'Words for likelihood ratios after Jaeschke, Guyatt and Sackett 1994: 2, 5 and 10, and their reciprocals.',
    },
    roc: {
      title: 'ROC plane',
      said: (k: number) =>
        `${k === 1 ? 'One study' : `${k} studies`} by sensitivity and false positives, with the summary point; the figures stand in the table below.`,
      x: 'False positives (1 − specificity), %',
      y: 'Sensitivity, %',
      keys: {
        study: 'a study: area by number of patients, filled by the share with the condition',
        summary: 'summary point',
        confidence: '95 % confidence region',
        prediction: '95 % prediction region',
        curve: 'SROC curve, within the specificities observed',
      },
      onlyOne: (n: number) =>
        `${n === 1 ? 'One study reports' : `${n} studies report`} one group only and cannot be drawn.`,
      noRegion: 'Regions and curve need sensitivity and specificity modelled together.',
      table: 'The figures behind it',
    },
    spread: {
      title: 'Heterogeneity',
      columns: ['Measure', 'Sensitivity', 'Specificity'],
      tau2: 'Variance between studies (logits)',
      i2: 'Share of the variability (I²)',
      q: 'Cochran’s Q',
      qSaid: (q: string, df: number, p: string) => `${q}, df ${df}, p ${p}`,
      rho: (r: string) => `Correlation of sensitivity with specificity between studies: ${r}.`,
      both: (share: string) => `I² of both together: ${share}.`,
      threshold: (r: string, p: string) =>
        `Rank correlation of sensitivity with false positives: ${r}${p && `, p ${p}`}. A high one may mean that studies differ by how readily they call a test positive.`,
      source: 'I² after Zhou and Dendukuri 2014.',
    },
    agreement: {
      title: 'Agreement between examiners',
      none: 'No agreement result has been entered for this test. That does not mean that examiners agree.',
      from: (k: number, subjects: string, i2: string) =>
        [k === 1 ? 'one study' : `${k} studies`, subjects && `${subjects} people`, i2 && `I² ${i2}`]
          .filter(Boolean)
          .join(', '),
      low: 'Agreement is low. Look at how common each rating was: a kappa can be low because nearly everybody gets the same one.',
    },
    compare: {
      title: (facet: string) => `Comparison by ${facet.toLowerCase()}`,
      value: 'Value',
      k: 'Results',
      relativeSe: 'Sensitivity, relative',
      relativeSp: 'Specificity, relative',
      reference: 'compared with',
      test: (p: string) =>
        `If the values did not differ, a difference this large or larger would be seen with p ${p}`,
      testParts: (se: string, sp: string) => ` (sensitivity alone p ${se}, specificity alone p ${sp})`,
      source:
        'Meta-regression of both means with a common covariance, likelihood-ratio test. Few studies find few differences: a large p is no proof that there is none.',
      posterior:
        'Values and relative figures: medians and equal-tailed intervals of the joint posterior under weak priors, spreads common to all values.',
      wald: 'Values and relative figures by maximum likelihood with Wald intervals.',
      why: {
        one_level: 'All results in the pool say the same; there is nothing to compare.',
        too_many_levels: 'There are too many values to compare; filter the results.',
        no_finite_maximum:
          'In some value no study saw a single error, so that a difference cannot be estimated.',
        not_identified: 'These results do not identify a difference.',
      } as Record<NoComparison, string>,
      direct: (a: string, b: string, n: number) =>
        `${a} and ${b}: ${n === 1 ? 'one comparison' : `${n} comparisons`} in the same people.`,
      independent:
        'The model takes results of the same people as independent, and with few studies its p is too small: do not read much into a small one.',
      noDirect:
        'No study reports two of these in the same people: every difference is also one between studies.',
    },
    referenceErrors: {
      title: 'Imperfect reference standard',
      about:
        'A sensitivity analysis: state the sensitivity and specificity of the reference standard, with ranges. The table shows what the summary would be against the true condition. It does not replace the summary estimate.',
      of: {
        sensitivity: 'Sensitivity of the reference standard',
        specificity: 'Specificity of the reference standard',
      },
      ends: { lower: 'from', estimate: 'most likely', upper: 'to' },
      noShare: 'A number from 0 to 100',
      order: 'From, most likely, to: in this order',
      take: 'Take them from a test in the catalogue',
      whose: 'Correct',
      summary: 'the summary estimate',
      asPooled: 'As pooled',
      asReported: 'As reported',
      frozen: (se: string, sp: string) =>
        `Frozen beside the pool, for a reference standard with sensitivity ${se} and specificity ${sp}: a sensitivity analysis, no answer.`,
      columns: ['Corrected, independent errors', 'Over the stated range', 'Bounds under any dependence'],
      impossible: 'impossible',
      atAnEnd: 'At an end of the range:',
      flags: {
        reference_uninformative:
          'this reference standard is right as often as a coin: nothing can be corrected.',
        reference_reversed: 'this reference standard is worse than chance.',
        prev_inadmissible: 'fewer than nobody, or more than everybody, would have the condition.',
        sens_inadmissible: 'sensitivity would lie outside of 0 to 100 %.',
        spec_inadmissible: 'specificity would lie outside of 0 to 100 %.',
        prev_undefined: 'there is nobody in the table.',
        sens_undefined: 'nobody would have the condition.',
        spec_undefined: 'everybody would have the condition.',
        negative_cell: 'a cell of the corrected table would be below zero.',
      } as Record<ReferenceFlag, string>,
      source:
        'At the summary point and the share that the reference called positive in the studies of both groups. Independent errors: Gart and Buck 1966, Staquet 1981. Tests of one kind err together; the last column holds whatever the dependence.',
      oneGroup: 'This needs studies of people with and without the condition.',
      picture:
        'From the pooled summary to what it would be against the truth, by sensitivity and false positives; the box holds whatever the dependence',
    },
    sensitivity: {
      title: 'Sensitivity analyses',
      columns: ['Analysis', 'Results', 'Sensitivity', 'Specificity', 'LR+', 'LR−'],
      as: 'As pooled above',
      intervals: 'With other intervals',
      models: 'Other models (maximum likelihood, Wald intervals)',
      priors: 'Influence of the prior on the intervals',
      priorsAbout: (k: number) =>
        `The same posterior with priors of the spread between studies half as wide and twice as wide. What moves is the prior’s share${k < 4 ? `: with ${k === 2 ? 'two' : 'three'} studies it is large. That so few agree may be chance; it does not prove that studies agree` : ''}.`,
      scale: (scale: number) => `Prior scale ${scale}`,
      parts: 'Subsets of the results',
      sides: (n: number) =>
        `${n === 1 ? 'One result counts' : `${n} results count`} sides: design effect for two sides of one patient`,
      alike: (correlation: number) => `Intraclass correlation ${correlation}`,
      taken: {
        left_out: 'Left out, as pooled',
        positive: 'Counted as positive',
        negative: 'Counted as negative',
      } as Record<UninterpretableAs, string>,
      verification: 'Corrected for partial verification (Begg and Greenes)',
      corrected: (n: number) => `${n === 1 ? 'One result' : `${n} results`} corrected`,
      notCorrected: (n: number) =>
        `${n} not correctable (nobody with one test result was verified), used as reported`,
      withoutHighRisk: (n: number) => `Without ${n} at high risk of bias`,
      withoutOneArmed: (n: number) => `Without ${n} that report${n === 1 ? 's' : ''} one group only`,
      nothing: 'nothing is left',
      stepped: (model: string) => `came down to: ${model}`,
      influence: 'Leave-one-out influence',
      influenceHint:
        'Cook’s distance of a result on both means: how far the summary moves without it, measured by its own uncertainty. Above 1 the result alone decides much.',
      matters: (label: string, lr: string, without: string) =>
        `${label} has the most influence: without it LR+ changes from ${lr} to ${without}.`,
      none: 'Influence needs at least two results.',
      distance: 'Cook’s distance',
      small: 'Small-study effects',
      smallSaid: (p: string, k: number) =>
        `Deeks’ regression over ${k} studies: p ${p}. Its power is low when accuracy varies; a large p is no proof of absence.`,
      untested: {
        too_few:
          'Not tested: fewer than ten studies report both groups, too few for the test to find anything.',
        no_spread: 'Not tested: all studies are equally large.',
      } as Record<NotTested, string>,
    },
    snapshot: {
      title: 'Frozen pools',
      about: 'A pool as it was at a day, for sheets and guidelines to cite. It is never changed.',
      none: 'No pool of this region is frozen yet.',
      freeze: 'Freeze this pool',
      freezeTitle: 'Freeze this pool as it is now',
      withCorrection: 'The correction for the reference standard stated on this page is frozen beside it.',
      freezeAbout: (kept: number) =>
        `${kept === 1 ? 'One result' : `${kept} results`}, the choices and the answer are kept together with a hash. A frozen pool cannot be changed or deleted.`,
      name: 'Name',
      nameHint: 'What it is cited for, such as a module and a year',
      note: 'Note',
      save: 'Freeze',
      frozen: 'Pool frozen.',
      by: (by: string, at: string) => `Frozen by ${by} on ${at}`,
      nobody: 'somebody',
      stale: 'stale: the evidence has changed',
      current: 'as the evidence stands',
      failed: 'The frozen pool could not be loaded',
      back: 'Back to pooling',
      again: 'Pool it as it stands now',
      file: 'Download the file',
      verify: 'Confirm it anywhere with',
      engine: 'Computed by',
      hash: 'SHA-256 of its content',
      results: 'Results included',
      counts: 'TP / FP / FN / TN',
      difference: 'Changes since it was frozen',
      upToDate: 'None: the same choices give the same results today.',
      otherInterval: (frozen: string, now: string) =>
        `Frozen with these intervals: ${frozen}. A pool frozen today would have: ${now}.`,
      happened: {
        entered: 'entered',
        left: 'left',
        changed: 'changed',
      } as Record<string, string>,
      gone: 'it was deleted',
      before: 'Frozen',
      now: 'Now',
      nothingNow: 'Nothing is left to pool.',
      threshold: (name: string) => `Threshold for ${name}`,
      noThreshold: 'A threshold is a number above 0. The last one is kept.',
      sides: { below: 'all below', across: 'across it', above: 'all above' } as Record<string, string>,
      noSide: 'not estimable',
      moved: (name: string, threshold: string, before: string, now: string) =>
        `The interval of ${name} by ${threshold}: ${before} then, ${now} now.`,
      same: (name: string, threshold: string, side: string) =>
        `The interval of ${name} by ${threshold}: ${side}, then and now.`,
    },
    open: 'Open in Pooling: choose results, compare, sensitivity analyses',
  },
  /** Beside one study's figures; those of pools are codes. */
  warning: {
    halfAdded: 'For the odds ratio 0.5 was added to every cell, since one is zero.',
    noPositive: 'Nobody was positive: LR+ is 0 divided by 0.',
    noNegative: 'Nobody was negative: LR− is 0 divided by 0.',
  },
}
