/* Jogging by a script: the actuator is driven in half of a number of blocks of time and left at rest in the others, in
 * an order drawn at random, so that the chance of a false answer is known whatever the sensors do by themselves. */
#include "jog.h"

#include "runtime/interrupt.h"
#include "tool/stand.h"

#include "analysis/answer.h"
#include "explain/describe.h"

#include <gsl/gsl_rng.h>
#include <math.h>
#include <stdio.h>
#include <string.h>

#define PAUSE_S      0.5 /* before each block that begins from standstill */
#define BACK         1.1 /* of the time of a block, for the way back */
#define FINE         1.0 /* percent */
#define FEW_BLOCKS   12u /* at each power of a search: 924 orders */
#define FEW_CHANCE   0.005
#define LOOKS        3u  /* at the power that was found, and at the one below it */
#define MOVES_MOST   8u  /* of the found power, up and down, until the looks agree */
#define APART_MOST   5.0 /* percent by which a higher power may be silent where a lower one was answered */
#define SEARCH_LOOKS 16  /* of a usual search */
#define LEAST_S      0.2
#define FIRST_SHARE  0.125 /* of the greatest power; a great one may fill at once what it fills */
#define SURE_SHARE   0.67  /* of the least power that the hidden effects may reach */

typedef struct jogging {
    stand on;
    const jog *j;
    const jog_script *what;
    gsl_rng *chance; /* of the orders */
} jogging;

/* ---- one experiment -------------------------------------------------------------------------------- */

typedef struct experiment {
    uint32_t blocks, kept; /* kept: blocks in which it was kept from what was asked */
    rgp_block block[RGP_CONTRAST_BLOCKS_MOST];
    const char *guard; /* that kept it; lives as long as the rows */
} experiment;

/* An actuator that goes both ways is driven back after each block, so that it ends where it began. */
static bool goes_both_ways(const jogging *s)
{
    const rgp_image_actuator *a = jog_actuator(s->j);
    const uint32_t slot = rgp_image_actuator_slot(s->on.image, s->j->actuator);
    return a->low < a->rest && a->high > a->rest &&
           strcmp(rgp_image_unit(s->on.image, RGP_NAME_SLOT, slot, 0), "%") == 0;
}

static void drive_for(jogging *s, bool on, double power, double seconds)
{
    if (on) {
        stand_hand(&s->on, s->j->actuator, power);
    }
    stand_tick_for(&s->on, seconds);
    if (on) {
        stand_release(&s->on, s->j->actuator);
    }
}

/* The value that was written in a row, away from rest. */
static double written_at(const jogging *s, uint64_t row)
{
    const uint32_t slot = rgp_image_actuator_slot(s->on.image, s->j->actuator);
    const uint32_t column = (uint32_t)rgp_history_slot(s->on.history, slot);
    return (double)(rgp_history_value(s->on.history, column, row) - jog_actuator(s->j)->rest);
}

static double back_seconds(const jogging *s)
{
    const rgp_image_actuator *a = jog_actuator(s->j);
    const double turning = a->slew > 0.0f ? (double)((a->high - a->low) / a->slew) : 0.0;
    return goes_both_ways(s) ? BACK * s->what->hold + turning : 0.0;
}

/* Until what was written adds up to nothing, and a little more, so that what began at an end comes back to it; but no
 * longer than the time that every block has for it, for the times must not tell the order. */
static void drive_back(jogging *s, const rgp_block *b, double power)
{
    const rgp_image_actuator *a = jog_actuator(s->j);
    const double back = CLAMP(2.0 * (double)a->rest - power, (double)a->low, (double)a->high);
    const double tick = s->on.image->tick_us / 1e6, sign = power > (double)a->rest ? 1.0 : -1.0;
    const uint64_t end = s->on.ticks + (uint64_t)ceil(back_seconds(s) / tick);
    double left = 0.0;
    for (uint64_t row = b->from; row < b->to; row++) {
        left += BACK * sign * written_at(s, row);
    }
    while (b->on && left > 0.0 && s->on.ticks < end && !interrupt_asked()) {
        stand_hand(&s->on, s->j->actuator, back);
        stand_tick_for(&s->on, tick);
        left += sign * written_at(s, s->on.rows - 1);
    }
    if (b->on) {
        stand_release(&s->on, s->j->actuator);
    }
    if (s->on.ticks < end) {
        stand_tick_for(&s->on, (double)(end - s->on.ticks) * tick);
    }
}

static void run_block(jogging *s, experiment *e, rgp_block *b, double power)
{
    b->from = s->on.rows;
    drive_for(s, b->on, power, s->what->hold);
    b->to = s->on.rows;
    const char *guard = b->on && b->to > b->from ? jog_guard_at(s->j, s->on.history, b->to - 1) : "";
    if (*guard) {
        e->kept++;
        e->guard = guard;
    }
    if (goes_both_ways(s)) {
        drive_back(s, b, power);
    }
}

static double experiment_seconds(const jogging *s, uint32_t blocks, double pause)
{
    return s->what->hold + blocks * (pause + s->what->hold + back_seconds(s));
}

/* False when interrupted. The rows of the one before are forgotten. */
static bool experiment_run(jogging *s, experiment *e, uint32_t blocks, double power, double pause)
{
    bool on[RGP_CONTRAST_BLOCKS_MOST];
    *e = (experiment){.blocks = blocks};
    stand_note(&s->on);
    rgp_contrast_order(s->chance, on, blocks);
    stand_tick_for(&s->on, s->what->hold);
    for (uint32_t i = 0; i < blocks && !interrupt_asked(); i++) {
        e->block[i].on = on[i];
        stand_tick_for(&s->on, pause);
        run_block(s, e, &e->block[i], power);
    }
    return !interrupt_asked();
}

/* ---- which sensors answer -------------------------------------------------------------------------- */

static int describe_interrupted(const jogging *s)
{
    printf("interrupted; %s is at rest\n", jog_name(s->j));
    return EXIT_DONE;
}

static int move_it(jogging *s)
{
    const rgp_image_actuator *a = jog_actuator(s->j);
    const double power = s->what->power;
    const double pause = goes_both_ways(s) ? PAUSE_S : 0.0;
    const uint32_t blocks = rgp_answer_blocks(stand_sensors(&s->on));
    g_autoptr(GString) value = g_string_new(NULL);
    uint32_t answered = 0;
    experiment e;
    rgp_describe_value(s->on.image, rgp_image_actuator_slot(s->on.image, s->j->actuator), (float)power, value);
    if (!(power >= (double)a->low && power <= (double)a->high)) {
        return command_refuse(s->j->self, "--to: %s can go from %g to %g", jog_name(s->j), (double)a->low,
                              (double)a->high);
    }
    g_autofree char *rest = jog_rest_told(s->j);
    printf("%s %s by hand, %u times on%s and %u times at rest, %g s each, in random order: %.0f s; %s\n",
           jog_name(s->j), value->str, blocks / 2, goes_both_ways(s) ? " and back" : "", blocks / 2, s->what->hold,
           experiment_seconds(s, blocks, pause), rest);
    fflush(stdout);
    if (!experiment_run(s, &e, blocks, power, pause)) {
        return describe_interrupted(s);
    }
    if (e.kept > 0) {
        printf("  kept from it in %u of %u: %s\n", e.kept, blocks / 2, e.guard);
    }
    for (uint32_t i = 0; i < stand_sensors(&s->on); i++) {
        const rgp_answer answer = rgp_answer_of(s->on.history, stand_sensor(&s->on, i), e.block, blocks,
                                                stand_sensors(&s->on), RGP_ANSWER_RATE);
        g_autoptr(GString) told = g_string_new(NULL);
        rgp_answer_describe(&answer, stand_sensor_unit(&s->on, i), s->on.image->tick_us, told);
        printf("  %-12s %s\n", stand_sensor_name(&s->on, i), told->str);
        answered += answer.answered;
    }
    puts(answered                 ? "back at rest"
         : e.kept == e.blocks / 2 ? "back at rest; it was never driven"
                                  : "back at rest; nothing answers: more power, a longer --hold, or look at the wires");
    return EXIT_DONE;
}

/* ---- the least power ------------------------------------------------------------------------------- */

typedef struct search {
    double sign; /* of the direction */
    uint32_t sensor;
    rgp_answer_by by;
    double effect; /* at `most`, the power at which it was looked for */
    double most;
    double silent, answered; /* the greatest power that was not answered, the least that was; at any look */
    double error;            /* of the effect, in the last look */
} search;

/* The sensor that answers a power first: one that only sees where the way ends answers late. False when none does, or
 * when interrupted. */
static bool find_sensor(jogging *s, search *f, double most)
{
    const uint32_t sensors = stand_sensors(&s->on), blocks = rgp_answer_blocks(sensors);
    double earliest = INFINITY;
    experiment e;
    f->most = f->answered = most;
    if (!experiment_run(s, &e, blocks, f->sign * most, PAUSE_S)) {
        return false;
    }
    for (uint32_t i = 0; i < sensors; i++) {
        const rgp_answer a =
            rgp_answer_of(s->on.history, stand_sensor(&s->on, i), e.block, blocks, sensors, RGP_ANSWER_RATE);
        if (a.answered && a.after >= 0.0 && a.after < earliest) {
            earliest = a.after;
            f->sensor = i;
            f->by = a.by;
            f->effect = a.effect;
        }
    }
    return earliest < INFINITY;
}

static bool look(jogging *s, search *f, double power)
{
    experiment e;
    if (power <= 0.0 || !experiment_run(s, &e, FEW_BLOCKS, f->sign * power, PAUSE_S)) {
        return false;
    }
    const rgp_contrast c =
        rgp_answer_contrast(s->on.history, stand_sensor(&s->on, f->sensor), e.block, FEW_BLOCKS, f->by);
    f->error = c.error;
    const bool answered = c.chance <= FEW_CHANCE && c.effect * f->effect > 0.0;
    f->silent = answered ? f->silent : fmax(f->silent, power);
    f->answered = answered ? fmin(f->answered, power) : f->answered;
    printf("  %4g %%  %s\n", f->sign * power, answered ? "answered" : "silent");
    fflush(stdout);
    return answered;
}

/* True when more than half of the looks see an answer. */
static bool look_again(jogging *s, search *f, double power)
{
    uint32_t seen = 0;
    for (uint32_t i = 0; i < LOOKS && !interrupt_asked(); i++) {
        seen += look(s, f, power);
    }
    return 2 * seen > LOOKS;
}

/* Halves the gap between what is silent and what is answered, then goes a step at a time until the looks at the step
 * and at the one below it agree. The least power, or below 0. */
static double find_least(jogging *s, search *f)
{
    double low = 0.0, high = f->most;
    while (high - low > FINE && !interrupt_asked()) {
        const double middle = low + FINE * floor(0.5 * (high - low) / FINE);
        *(look(s, f, middle) ? &high : &low) = middle;
    }
    for (uint32_t i = 0; i < MOVES_MOST && high <= f->most && !interrupt_asked(); i++) {
        if (!look_again(s, f, high)) {
            high += FINE;
        } else if (look_again(s, f, high - FINE)) {
            high -= FINE;
        } else {
            return high;
        }
    }
    return -1.0;
}

static void describe_least(const jogging *s, const search *f, double least)
{
    const char *way = !goes_both_ways(s) ? "" : f->sign > 0.0 ? " upwards" : " downwards";
    printf("the least power that moves something%s is %g %%, seen by %s (%g %% was silent, %g %% was answered at least "
           "once)\n",
           way, least, stand_sensor_name(&s->on, f->sensor), f->silent, f->answered);
}

/* The power below which an effect in proportion to the power would hide in what the sensor does by itself. */
static double hidden_below(const search *f)
{
    return RGP_ANSWER_SEEN * f->error / fabs(f->effect) * f->most;
}

static int refuse_least(const jogging *s, const search *f, double least)
{
    const jog *j = s->j;
    const char *sensor = stand_sensor_name(&s->on, f->sensor);
    if (least >= 0.0 && hidden_below(f) > SURE_SHARE * least) {
        return command_refuse(
            j->self,
            "%s is seen to answer from %g %% on, but by itself it does as much as %.0f %% would do in "
            "%g s; take a longer --hold",
            sensor, least, hidden_below(f), s->what->hold);
    }
    if (least < 0.0 || f->silent - f->answered > APART_MOST) {
        return command_refuse(j->self,
                              "no least power is found: %s once answered %g %% and was silent at %g %%; take a longer "
                              "--hold, or see whether it has come to an end of its way",
                              sensor, f->answered, f->silent);
    }
    return EXIT_DONE;
}

/* The least power of one direction goes to j->least, when it is the greater one. */
static int search_one_way(jogging *s, jog *j, double sign)
{
    const double most = sign > 0.0 ? (double)jog_actuator(j)->high : -(double)jog_actuator(j)->low;
    search f = {.sign = sign};
    double power = FIRST_SHARE * most;
    while (!find_sensor(s, &f, power) && power < most && !interrupt_asked()) {
        power *= 2.0;
    }
    const double least = f.effect != 0.0 ? find_least(s, &f) : -1.0;
    if (interrupt_asked()) {
        return EXIT_DONE;
    }
    if (f.effect == 0.0) {
        printf("nothing answers %s at %g %%\n", jog_name(j), sign * most);
        return EXIT_DONE;
    }
    const int status = refuse_least(s, &f, least);
    if (status == EXIT_DONE) {
        describe_least(s, &f, least);
        j->least = fmax(j->least, least);
    }
    return status;
}

static int search_least(jogging *s, jog *j)
{
    g_autofree char *why = NULL;
    if (jog_actuator(j)->kind != RGP_ACTUATOR_NUMBER || !(jog_actuator(j)->high > 0.0f)) {
        return command_refuse(j->self, "%s has no power to be found: it is on or off", jog_name(j));
    }
    const double seconds = experiment_seconds(s, FEW_BLOCKS, PAUSE_S) * SEARCH_LOOKS * (goes_both_ways(s) ? 2 : 1);
    g_autofree char *rest = jog_rest_told(j);
    printf("%s by hand, on and at rest in random order, %g s each: about %.0f minutes; %s\n", jog_name(j),
           s->what->hold, ceil(seconds / 60.0), rest);
    fflush(stdout);
    int status = search_one_way(s, j, 1.0);
    if (status == EXIT_DONE && goes_both_ways(s) && !interrupt_asked()) {
        status = search_one_way(s, j, -1.0);
    }
    if (interrupt_asked()) {
        return describe_interrupted(s);
    }
    if (status == EXIT_DONE && j->least < 0.0) {
        status = command_refuse(j->self, "no least power is found; take a longer --hold, or look at the wires");
    }
    if (status != EXIT_DONE || !s->what->write) {
        return status;
    }
    if (!jog_write_least(j, &why)) {
        return command_refuse(j->self, "%s", why);
    }
    printf("%s is written: %s, least %g %%; 'rigpulse calibrate %s --undo' takes it back\n", j->path, jog_name(j),
           j->least, j->path);
    return EXIT_DONE;
}

double jog_hold_least(const jog *j)
{
    const rgp_image_header *image = j->file->image;
    return fmax(LEAST_S, RGP_ANSWER_BLOCK_ROWS * image->tick_us / 1e6);
}

int jog_by_script(jog *j, const jog_script *what)
{
    g_autoptr(GError) error = NULL;
    jogging s = {.j = j, .what = what, .chance = gsl_rng_alloc(gsl_rng_mt19937)};
    int status;
    gsl_rng_set(s.chance, (unsigned long)j->seed);
    if (!stand_begin(&s.on, j->rig, &(stand_setup){.seed = j->seed, .fast = what->fast}, &error)) {
        status = command_refuse(j->self, "%s", error->message);
    } else {
        status = what->least ? search_least(&s, j) : move_it(&s);
    }
    stand_end(&s.on);
    gsl_rng_free(s.chance);
    return status;
}
