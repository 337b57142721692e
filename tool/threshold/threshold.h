/* The parts of the threshold command. */
#ifndef TOOL_THRESHOLD_H
#define TOOL_THRESHOLD_H

#include "tool/command.h"

#include "analysis/threshold.h"

/* The finding, for a person: numbers with their doubts, what would help, what speaks against it. */
void threshold_print(const rgp_threshold_study *study, const rgp_threshold_request *request);

/* The same for a program. */
json_t *threshold_json(const rgp_threshold_study *study, const rgp_threshold_request *request);

/* "noise above 35 counts, margin 13 counts, for 240 ms, holdoff 200 ms" */
void threshold_put(GString *to, const rgp_finding *finding);

#endif
