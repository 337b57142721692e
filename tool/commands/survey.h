/* A survey in words and as JSON. */
#ifndef TOOL_COMMANDS_SURVEY_H
#define TOOL_COMMANDS_SURVEY_H

#include "analysis/survey.h"

/* Another text in the same worlds: its one cell. */
typedef struct survey_other {
    const char *path;
    char *text;
    rgp_survey_ask ask;
    rgp_survey *survey;
} survey_other;

/* For a person, with so many of the best, and `others` (survey_other *). */
void survey_print(const rgp_survey *survey, uint32_t best, const GPtrArray *others);

/* For a program: all cells, the best first. */
void survey_print_json(const rgp_survey *survey, const GPtrArray *others);

#endif
