/* A survey in words and as JSON. */
#ifndef TOOL_COMMANDS_SURVEY_H
#define TOOL_COMMANDS_SURVEY_H

#include "analysis/survey.h"

/* For a person, with so many of the best. */
void survey_print(const rgp_survey *survey, uint32_t best);

/* For a program: all cells, the best first. */
void survey_print_json(const rgp_survey *survey);

/* "  median 4, worst 6" */
void survey_put_cell(GString *to, const rgp_survey *survey, const rgp_survey_cell *cell);

#endif
