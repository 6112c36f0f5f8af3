# The fits of the benchmark `bivariate_fit` by glmer (lme4, Laplace, default control), for comparison: Rscript benches/glmer.R from this crate's folder.
# Debian's packages r-base-core and r-cran-lme4. Run it and `cargo bench -p pruvex-core --bench pooling -- bivariate_fit` one after the other on a quiet machine.
suppressMessages(library(lme4))
read <- function(k) { t <- read.csv(sprintf("benches/data/studies_%d.csv", k)); data.frame(study = factor(rep(seq_len(k), 2)),
  outcome = factor(rep(c("sens", "spec"), each = k)), event = c(t$tp, t$tn), nonevent = c(t$fn, t$fp)) }
fit <- function(d) suppressMessages(suppressWarnings(glmer(cbind(event, nonevent) ~ 0 + outcome + (0 + outcome | study), data = d, family = binomial)))
for (k in c(10, 30, 100, 300)) {
  d <- read(k); fit(d); m <- fit(d)
  seconds <- replicate(15, system.time(fit(d), gcFirst = FALSE)[["elapsed"]])
  cat(sprintf("k = %d: median %.4f s, least %.4f, most %.4f; log-likelihood %.6f\n", k, median(seconds), min(seconds), max(seconds), as.numeric(logLik(m))))
}
