//! Several tests read together: what a battery is worth, and whether what is claimed of one can be true.

mod battery;
mod claims;
mod published;

pub use battery::{
    BatteryAnswer, BatteryInput, BatteryTestInput, BatteryTestView, BatteryView, CountView, DependenceInput,
    answer_battery,
};
pub use claims::{ClaimInput, ClaimView, ClaimsAnswer, ClaimsInput, FigureInput, SingleInput, check_claims};
pub use published::{PublishedRule, SimilarResult};
