/* rigpulse compare: what it compares, and how it tells. */
#ifndef TOOL_COMMANDS_COMPARE_H
#define TOOL_COMMANDS_COMPARE_H

#include "tool/command.h"

#include "analysis/comparison.h"
#include "analysis/course.h"
#include "runtime/recording.h"

typedef struct compare_options {
    char **run, **set, **figure, **draw;
    char *seeds, *length, *from, *over, *picture;
    gboolean all, json;
} compare_options;

/* The comparison that is asked for: kinds of runs, and where their figures come from. */
typedef struct compare_what {
    const command *self;
    const compare_options *options;
    GArray *kind;      /* of rgp_run_kind */
    char **drawn;      /* names of values for the picture; NULL: there is none */
    GPtrArray *course; /* by kind, then by value: of the first run of each; NULL: it has none */
    bool paired;
    double from_s, to_s; /* of the first run; what is looked at */
    GString *says;       /* what has to be known of it, a line each */
} compare_what;

/* False when it cannot be, which has been said. */
bool compare_recordings(compare_what *w, char **names);
bool compare_simulated(compare_what *w);

/* Draws the first run of each kind over those of the others. False when it cannot, which has been said. */
bool compare_draw(const compare_what *w);

void compare_print(const compare_what *w, const rgp_comparison *c);
void compare_print_json(const compare_what *w, const rgp_comparison *c);

#endif
