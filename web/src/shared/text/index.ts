import { catalogueWords } from './catalogue'
import { combineWords } from './combine'
import { commonWords } from './common'
import { evidenceWords } from './evidence'
import { examinationWords } from './examination'
import { exchangeWords } from './exchange'
import { guideWords } from './guide'
import { likelihoodWords } from './likelihood'
import { peopleWords } from './people'
import { planWords } from './plan'
import { poolingWords } from './pooling'
import { reviewWords } from './review'
import { vocabularyWords } from './vocabulary'
import * as codeWords from './codes'

/** All words of the interface, by area. Statistical terms are the field's own. */
export const text = {
  ...codeWords,
  ...commonWords,
  ...guideWords,
  ...peopleWords,
  ...reviewWords,
  ...catalogueWords,
  ...vocabularyWords,
  ...evidenceWords,
  ...exchangeWords,
  ...poolingWords,
  ...likelihoodWords,
  ...combineWords,
  ...planWords,
  ...examinationWords,
}
