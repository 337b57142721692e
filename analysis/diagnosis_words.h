/* A diagnosis in words: each cause with its evidence, and the next single trial. */
#ifndef ANALYSIS_DIAGNOSIS_WORDS_H
#define ANALYSIS_DIAGNOSIS_WORDS_H

#include "diagnosis.h"
#include "trial.h"

#include <glib.h>

/* "likely too much P: it swings on every 61 s by ±1.2 K ..."; of one that stays below "possible" what the likeliest
 * two are. One sentence, without a full stop. */
void rgp_diagnosis_say(const rgp_loop_run *run, const rgp_diagnosis *diagnosis, const rgp_trial_names *names,
                       GString *to);

/* Two causes of which neither is twice as likely as the other, where a trial tells them apart. */
bool rgp_diagnosis_divided(const rgp_diagnosis *diagnosis);

/* The next trial tells causes apart: that the error grows in it refutes nothing. */
bool rgp_diagnosis_parts(const rgp_diagnosis *diagnosis);

/* The next trial as gains and settings that `rigpulse tune` takes, "kp 70, ki 0.7"; it is one change. NULL: there is
 * none of that kind. To be freed. *foreseen becomes the error with it, in that of the stretch, where a model of the
 * stretch has it better (foresight.h); else NAN. */
char *rgp_diagnosis_trial(const rgp_loop_run *run, const rgp_diagnosis *diagnosis, const rgp_trial_names *names,
                          double *foreseen);

/* "with what is next this stretch would have had at most 61 % of its error, by its model"; of NAN, nothing. */
void rgp_diagnosis_foretell(double foreseen, GString *to);

/* Other things to be done, or looked for, where gains are not to blame; NULL: none. A constant. */
const char *rgp_diagnosis_remedy(const rgp_diagnosis *diagnosis);

/* Of a loop that drives to one side all along to stand still: to which side of the setpoint a mechanism that should
 * stand there by itself balances, whatever else is the matter. NULL: it does not. To be freed. */
char *rgp_diagnosis_leaning(const rgp_diagnosis *diagnosis, const rgp_trial_names *names);

#endif
