/* The next trial for a cause by rule of thumb, each as a text, with what the signs of a stretch say of how far to go.
 */
#ifndef ANALYSIS_DIAGNOSIS_RULES_H
#define ANALYSIS_DIAGNOSIS_RULES_H

#include "diagnosis_telling.h"

typedef void rgp_rule(const telling *t, GString *to);
rgp_rule rgp_rule_less, rgp_rule_slower, rgp_rule_more, rgp_rule_less_i, rgp_rule_more_i, rgp_rule_room,
    rgp_rule_quicker, rgp_rule_more_d, rgp_rule_less_d, rgp_rule_filter, rgp_rule_apart, rgp_rule_deadband;

#endif
