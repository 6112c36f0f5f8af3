import type { PlanAction } from '../api/types'
import codes from '../codes.json'

const times = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`)
const ofHundred = (share: number) => {
  // What is everybody but for rounding is everybody.
  const n = Number((share * 100).toFixed(6))
  if (n > 0 && n < 1) return 'fewer than 1'
  if (n < 100 && n > 99) return 'more than 99'
  return String(Math.round(n))
}

/** Plans of examinations. */
export const planWords = {
  plan: {
    title: 'Examination plans',
    of: (region: string) => `Examination plans: ${region}`,
    about:
      'Which tests are done together, in which order, and what each of them still changes. A plan is published like a sheet; learners see published plans.',
    failed: 'The plans could not be loaded',
    failedOne: 'The plan could not be loaded',
    none: 'No plan for this region',
    noneDetail:
      'A plan names the conditions that an examination decides about, and its tests in their order.',
    nothing: 'No plan fits',
    nothingDetail: 'Take a filter back, or search for other words.',
    search: 'Title or condition',
    status: 'Status',
    order: 'Order',
    orders: { title: 'by title', saved: 'saved last first' } as Record<'title' | 'saved', string>,
    count: (n: number) => times(n, 'plan', 'plans'),
    tests: (n: number) => times(n, 'test', 'tests'),
    saved: (at: string) => `saved ${at}`,
    add: 'New plan',
    edit: 'Edit',
    copy: 'Copy',
    pdf: 'PDF',
    copyOf: (title: string) => `Copy of ${title}`,
    back: 'Examination plans',
    newTitle: 'New examination plan',
    editTitle: (title: string) => `Edit: ${title}`,
    label: 'Status of the plan',
    changed: {
      title: 'Sheets changed since this plan was signed off',
      changed: (name: string) =>
        `${name}: another text of its sheet was published. Read the plan again, and sign it off anew.`,
      archived: (name: string) => `${name}: its sheet is archived or not published. Learners do not see it.`,
    },
    form: {
      title: 'Title',
      titleHint: 'What colleagues look for, such as “Standard examination, module 3”',
      setting: 'Setting',
      note: 'For whom, and what else is to be said',
      course: 'Course',
      state: 'Examined while',
      frame: 'The basic examination before special tests',
      side: 'Which side first',
      sides: { sound: 'sound side first', affected: 'affected side first' },
      saved: 'Plan saved as a draft.',
      conflict:
        'Somebody saved this plan meanwhile. Your text is kept here. Open the plan in another tab to compare; saving again puts yours in the place of theirs, and the history keeps both.',
      resumed: (at: string) => `Goes on with what you left unsaved on ${at}.`,
      anew: 'Begin anew',
      cancel: 'Cancel',
      faults: (n: number) =>
        n === 1 ? 'One thing is missing or wrong.' : `${n} things are missing or wrong.`,
    },
    questions: {
      title: 'What is decided',
      becomes: 'What becomes of patients',
      several:
        'Each condition has its own probability, from the results that speak to it. They need not add up to 100 %.',
      condition: 'Condition',
      preTest: 'Pre-test probability',
      reassure: 'Reassure below',
      upper: (action: string) => `${action.slice(0, 1).toUpperCase()}${action.slice(1)} above`,
      add: 'Another condition',
      remove: (name: string) => `Remove ${name || 'this condition'}`,
      actions: codes.actions as Record<PlanAction, string>,
      thresholds: (before: string, steps: string) => `Pre-test probability ${before}; ${steps}.`,
      below: (share: string) => `${codes.actions.reassure} below ${share}`,
      from: (action: string, share: string) => `${action} from ${share}`,
      above: (action: string, share: string) => `${action} above ${share}`,
      more: 'More: what is done in between, and above',
      moreOf: (condition: string) => `More: what is done in between, and above: ${condition}`,
      betweenAbout:
        'Between the two thresholds nothing is decided, unless you say what is done from which probability on.',
      aboveLabel: 'Done above the upper threshold',
      action: 'Done',
      fromLabel: 'From',
      addAction: 'Another action in between',
      removeAction: (action: string) => `Remove ${action || 'this action'}`,
      noTest: 'No test of the plan has sensitivity and specificity for it.',
      tooMany: 'More tests than can be followed together.',
      outlook: (of: number, mean: string) =>
        `Examined in this order until a threshold is crossed: on average ${mean} of ${times(of, 'test', 'tests')}.`,
      ends: 'Of 100 such patients',
      end: (share: number) => ofHundred(share),
      undecided: 'not decided',
      enough: (negative: number | null, positive: number | null, action: string) => {
        const said = [
          negative
            ? `to reassure after ${times(negative, 'negative result', 'negative results in a row')}`
            : '',
          positive
            ? `to ${action} after ${times(positive, 'positive result', 'positive results in a row')}`
            : '',
        ].filter(Boolean)
        if (said.length) return `Enough is known ${said.join(', ')}.`
        return negative === 0 || positive === 0 ? '' : 'No run of results of one kind is enough to stop.'
      },
      independent:
        'As if the tests were independent given the condition, with the pooled figures of all their results.',
    },
    list: {
      title: 'Tests in their order',
      add: 'Add a test',
      mechanism: 'Mechanism of injury',
      structure: 'Structure suspected',
      basic: (part: string) => `basic examination: ${part}`,
      loads: (structure: string) => `puts ${structure} under test`,
      noneFits: 'No other test of the region fits the mechanism.',
      none: 'Add the first test.',
      position: 'Position not given',
      of: (place: number, all: number) => `${place} of ${all}`,
      drag: 'Drag to another place',
      up: (name: string) => `${name}: earlier`,
      down: (name: string) => `${name}: later`,
      remove: (name: string) => `Remove ${name}`,
      gone: 'A test that is archived, or that you cannot see',
      sheet: 'Sheet',
      sheetOf: (name: string) => `Sheet of ${name}`,
      taught: 'as taught',
      variant: 'Variant',
      reason: 'Reason, in your own words',
      optional: 'Only where it is asked for',
      optionalShort: 'only where it is asked for',
      last: 'Keep for last',
      after: 'Comes after',
      more: 'More',
      moreOf: (name: string) => `More: variant, reason and wishes for ${name}`,
      attempt: 'one valid attempt',
      irritation: codes.irritation,
      minutes: (n: number) => `${n} min`,
      adds: (share: number) => `changes the decision in ${ofHundred(share)} of 100 such patients`,
      enoughHere: {
        negative: 'enough to reassure from here on, if all so far were negative',
        positive: (action: string) => `enough to ${action} from here on, if all so far were positive`,
      },
      needed: (share: number) => `still needed in ${ofHundred(share)} of 100`,
      alone: (share: number) => `alone it would change the decision in ${ofHundred(share)} of 100`,
      noFigures: 'no figures for these conditions',
      matching: (matching: number, studies: number, such: string) =>
        `${matching} of ${times(studies, 'study', 'studies')} with people such as these (${such})`,
      for: (condition: string) => `${condition}:`,
    },
    reasons: {
      same_position: 'same position as the one before',
      one_attempt: 'first: it allows one valid attempt',
      irritating: 'late: the most irritating',
      most_informative: 'tells the most of those left',
      kept_last: 'kept for last',
      frame: 'first: of the basic examination',
      before: (name: string) => `before ${name}`,
      after: (name: string) => `after ${name}`,
    },
    cost: {
      title: 'The order',
      summary: (changes: number, minutes: number) =>
        `${times(changes, 'change', 'changes')} of position${minutes ? `, ${minutes} min` : ''}.`,
      proposed: 'This is the proposed order: no other one serves the wishes below better.',
      good: 'This is the proposed order. There are too many tests to try every order; no order can be better by more than this:',
      follow: 'Keep the tests in the proposed order',
      apply: 'Put in the proposed order',
      instead: 'Beside the proposed order, this one:',
      turning: (own: number, proposed: number) =>
        `turns the patient ${times(own, 'time', 'times')} instead of ${proposed}`,
      worse: {
        one_attempt: 'irritates more before tests that allow one valid attempt',
        irritating_late: 'does irritating tests earlier',
        informative_early: 'does informative tests later',
      },
      better: {
        one_attempt: 'irritates less before tests that allow one valid attempt',
        irritating_late: 'does irritating tests later',
        informative_early: 'does informative tests earlier',
      },
      broken: (first: string, second: string) => `${first} should come before ${second}.`,
      wishes: 'More: what counts, and how much',
      wish: {
        turning: 'Less turning over',
        one_attempt: 'Nothing irritating before a test with one valid attempt',
        irritating_late: 'Irritating tests late',
        informative_early: 'The better test first, even if it stresses more',
      },
      amount: (times: number) =>
        times === 0 ? 'not at all' : times === 1 ? 'as usual' : `${times} × as usual`,
      usual: 'All as usual',
      bits: 'More: information expected of each test',
      bitsOf: (name: string, bits: string) => `${name}: ${bits} bits`,
      bitsAbout: 'As the first test, over all conditions of the plan.',
      difference: (points: string) => `${points} points of cost`,
    },
    fit: {
      title: 'Fit to the patient',
      begin: 'Fit to the patient',
      end: 'Show the plan as it is',
      about: 'Nothing of this is kept: it stands in the address only, without a name.',
      failed: 'Whether the plan fits could not be found out',
      questions: 'Asked once, before the first hand is laid on',
      open: (n: number) => (n === 1 ? '1 question is open' : `${n} questions are open`),
      answers: { yes: 'Yes', no: 'No', unknown: 'Not known' },
      unsafe: (n: number) => (n === 1 ? 'Decides about 1 test:' : `Decides about ${n} tests:`),
      stop: 'Stop: no examination now',
      nothing: 'No test of this plan can be done now. Follow your local protocol, and refer where in doubt.',
      nothingYet: (n: number) =>
        `Every test is locked or out: ${n === 1 ? 'one question is open' : `${n} questions are open`}.`,
      irritability: 'Irritability',
      irritable: [
        '0: not irritable',
        '1: settles at once',
        '2: settles within hours',
        '3: hardly bears touch',
      ],
      cannot: 'Cannot be',
      lacking: 'Not at hand',
      situations: 'What holds',
      wished: 'Optional tests',
      minutes: 'Minutes at hand',
      clear: 'Another patient',
      notNow: 'Not now',
      states: {
        ready: '',
        with_care: 'With care:',
        locked: 'Locked:',
        not_now: '',
      },
      leftOut: 'Optional: not asked for.',
      gone: 'Its sheet is archived, or you cannot see it.',
      question: (question: string) => `first find out: ${question}`,
      position: (position: string) => `the patient cannot be ${position}`,
      equipment: (name: string) => `not at hand: ${name}`,
      irritation: 'too irritating for this complaint',
      time: 'the minutes at hand are used up',
      within: (hours: number) =>
        hours === 0
          ? 'At once.'
          : hours % 24 === 0 && hours >= 48
            ? `Within ${hours / 24} days.`
            : `Within ${hours} h.`,
      instead: (words: string) => `Instead: ${words}`,
      insteadWhen: (situation: string, words: string) => `${situation} ${words}`,
      alternative: {
        ready: (name: string) => `${name} passes the same screening.`,
        with_care: (name: string) => `${name} passes the same screening; with care.`,
        locked: (name: string) => `${name} is locked by an open question.`,
        not_now: (name: string) => `${name} cannot be done now either.`,
      },
    },
    standing: {
      begin: 'Try results',
      end: 'Without results',
      title: 'Where the examination stands',
      about: 'Nothing of this is kept: it stands in the address only, without a name.',
      failed: 'Where the examination stands could not be found out',
      result: (test: string) => `Result of ${test}`,
      results: {
        positive: 'Positive',
        negative: 'Negative',
        unreadable: 'Not interpretable',
      },
      clear: 'Clear all results',
      action: (action: string) => `At this probability: ${action}.`,
      undecided: 'At this probability nothing is decided.',
      notWhole: 'Its interval reaches into another action.',
      states: {
        decided: 'Enough is known: a threshold is crossed.',
        settled: 'No open test that is always done can change what is done, whatever they show.',
        open: 'An open test can still change what is done.',
      },
      ends: {
        open: 'The examination goes on.',
        must_not_miss: 'Not finished: a condition that must not be missed was not asked about.',
        finished: 'Enough is known about every condition of the plan.',
      },
      next: (test: string) => `Next: ${test}.`,
      nextLocked: (test: string) => `Next: ${test}, once the open question is answered.`,
      mustNotMiss: 'Must not be missed',
      asked: (condition: string) => `${condition}: asked about`,
      askedByTest: (condition: string) => `${condition}: a test of the plan spoke to it`,
      inPlan: 'The plan has a test for it.',
      open: (condition: string, minutes: number | null, bits: string, changes: number) =>
        `${condition ? `${condition}, open` : 'Open'}: ${minutes === null ? '' : `${minutes} min, `}${bits} bits expected, changes what is done in ${ofHundred(changes)} of 100`,
      afterResult: (condition: string, p: string, action: string) => `${condition} now ${p}: ${action}`,
    },
    history: (title: string) => `History: ${title}`,
  },
}
