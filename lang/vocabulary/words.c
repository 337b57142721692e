/* The groups of words, and walking through all of them. */
#include "words.h"

#include "units.h"

#include <math.h>
#include <string.h>

static uint32_t all_statements(void)
{
    return STATEMENTS;
}

static uint32_t all_sensor_options(void)
{
    return SENSOR_OPTIONS;
}

static uint32_t all_actuator_settings(void)
{
    return ACTUATOR_SETTINGS;
}

#define COUNT_OF(table)               \
    static uint32_t all_##table(void) \
    {                                 \
        return table##_count;         \
    }
COUNT_OF(stage_words)
COUNT_OF(operator_words)
COUNT_OF(detector_words)
COUNT_OF(action_words)
COUNT_OF(step_words)
COUNT_OF(loop_lines)
COUNT_OF(term_words)
COUNT_OF(hookup_words)
#undef COUNT_OF

typedef bool setting_function(const void *row, uint32_t which, rgp_word_setting *to);
static setting_function stage_setting_at, detector_setting_at, loop_setting_at;

/* In the order in which a rig file has them. */
static const struct group {
    const char *name;
    const void *rows;
    size_t size;
    uint32_t (*count)(void);
    setting_function *setting;
} groups[] = {
    {"statement", statement_words, sizeof *statement_words, all_statements, NULL},
    {"sensor", sensor_options, sizeof *sensor_options, all_sensor_options, NULL},
    {"actuator", actuator_words, sizeof *actuator_words, all_actuator_settings, NULL},
    {"stage", stage_words, sizeof *stage_words, all_stage_words, stage_setting_at},
    {"operator", operator_words, sizeof *operator_words, all_operator_words, NULL},
    {"detector", detector_words, sizeof *detector_words, all_detector_words, detector_setting_at},
    {"action", action_words, sizeof *action_words, all_action_words, NULL},
    {"step", step_words, sizeof *step_words, all_step_words, NULL},
    {"loop", loop_lines, sizeof *loop_lines, all_loop_lines, loop_setting_at},
    {"term", term_words, sizeof *term_words, all_term_words, NULL},
    {"hookup", hookup_words, sizeof *hookup_words, all_hookup_words, NULL},
};

#define GROUPS (sizeof groups / sizeof *groups)

static const void *row_at(const struct group *g, uint32_t i)
{
    return (const char *)g->rows + i * g->size;
}

/* The group that a number of the walk falls into, and the row in it; NULL: it is behind them all. */
static const struct group *find_row(uint32_t index, uint32_t *row)
{
    for (uint32_t i = 0; i < GROUPS; i++) {
        const uint32_t count = groups[i].count();
        if (index < count) {
            *row = index;
            return &groups[i];
        }
        index -= count;
    }
    *row = index;
    return NULL;
}

static rgp_word word_of(const char *group, const void *row)
{
    word_row r;
    memcpy(&r, row, sizeof r);
    return (rgp_word){group, r.word, r.form, r.help, r.example, r.slip, NULL};
}

bool rgp_word_at(uint32_t index, rgp_word *word)
{
    uint32_t row;
    const struct group *g = find_row(index, &row);
    if (!g) {
        return unit_row(row, word);
    }
    *word = word_of(g->name, row_at(g, row));
    word->role = g->rows == statement_words ? statement_does(row) : NULL;
    return true;
}

/* ---- settings -------------------------------------------------------------------------------------- */

/* That a number may not be too great for any use is not told. */
static rgp_word_setting setting_of(const char *word, const char *name, unit_id in, number_limits limits, double initial)
{
    return (rgp_word_setting){.word = word ? word : "",
                              .name = name,
                              .unit = unit_told(in),
                              .least = limits.low <= -GREAT ? -INFINITY : limits.low,
                              .greatest = limits.high >= GREAT ? INFINITY : limits.high,
                              .above = limits.above,
                              .not_zero = limits.not_zero,
                              .odd = limits.odd,
                              .initial = initial < REQUIRED ? initial : NAN};
}

static bool stage_setting_at(const void *row, uint32_t which, rgp_word_setting *to)
{
    const stage_word *s = row;
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && s->setting[i].name; i++) {
        const stage_setting *is = &s->setting[i];
        const bool number = is->shape == SETTING_NUMBER || is->shape == SETTING_COUNT || is->shape == SETTING_FROM ||
                            is->shape == SETTING_UPTO || is->shape == SETTING_VALUE || is->shape == SETTING_POINTS;
        if (number && which-- == 0) {
            *to = setting_of(is->word, is->name, is->unit, stage_limits(s, is), is->initial);
            to->unit = is->shape == SETTING_POINTS ? "how many" : to->unit;
            return true;
        }
    }
    return false;
}

static bool detector_setting_at(const void *row, uint32_t which, rgp_word_setting *to)
{
    const detector_word *d = row;
    const bool counts = d->has_which && !d->choice[0].word;
    if (counts && which-- == 0) {
        *to = setting_of(NULL, "N", UNIT_NONE, limits_of_setting(d->op, d->which_offset), REQUIRED);
        return true;
    }
    if (which >= DETECTOR_SETTINGS_MAX || !d->setting[which].name) {
        return false;
    }
    const detector_setting *is = &d->setting[which];
    *to = setting_of(is->word, is->name, is->unit, detector_limits(d, is), is->optional ? 0.0 : REQUIRED);
    return true;
}

static bool loop_setting_at(const void *row, uint32_t which, rgp_word_setting *to)
{
    const loop_line *l = row;
    for (uint32_t i = 0; i < LOOP_LINE_SETTINGS_MAX && l->setting[i].name; i++) {
        const loop_setting *is = &l->setting[i];
        if (!is->flag && which-- == 0) {
            *to = setting_of(is->word, is->name, is->unit, loop_limits(l, is), is->initial);
            return true;
        }
    }
    return false;
}

bool rgp_word_setting_at(uint32_t index, uint32_t which, rgp_word_setting *setting)
{
    uint32_t row;
    const struct group *g = find_row(index, &row);
    return g && g->setting && g->setting(row_at(g, row), which, setting);
}

/* ---- what is no name --------------------------------------------------------------------------------- */

/* Words that begin a line of a hook-up, or that a former version had. */
static const char *const other_reserved[] = {"at", "becomes"};

static bool is_among(const word_row *rows, uint32_t count, const char *word)
{
    for (uint32_t i = 0; i < count; i++) {
        if (strcmp(rows[i].word, word) == 0) {
            return true;
        }
    }
    return false;
}

bool word_is_reserved(const char *word)
{
    const operator_word *o = operator_word_find(word);
    const detector_word *d = detector_word_find(word);
    bool other = false;
    for (uint32_t i = 0; i < sizeof other_reserved / sizeof *other_reserved; i++) {
        other |= strcmp(other_reserved[i], word) == 0;
    }
    return other || (o && o->reserved) || (d && d->reserved) || is_among(action_words, ACTION_WORDS, word) ||
           is_among(step_words, STEP_WORDS, word);
}
