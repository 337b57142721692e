/* Proposals: from the model to gains, and rehearsals of these and of the present ones. */
#include "proposal.h"

#include "tool/names.h"
#include "tool/rigfile.h"

#include "analysis/loop_pieces.h"
#include "explain/describe.h"
#include "explain/disassembly.h"
#include "rigpulse/edit.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define PUSH_SHARE 0.1  /* of the travel, by which the output is pushed if nothing is said */
#define KICK_SHARE 0.25 /* of the travel, by which the proportional term answers a step, likewise */
#define ROOM_SHARE 0.5  /* of what the output has left to its limits, that a test may need at most */
#define TAUS       12.0 /* how long a test is looked at: so often the closed loop's time */
#define INTEGRALS  4.0  /* and so often its integral time */
#define SHY_MOST   1.0  /* percent that a new setpoint may be gone beyond */

/* ---- the loop -------------------------------------------------------------------------------------- */

static bool take_pid(proposal *p)
{
    rgp_decoded step;
    const rgp_image_header *image = p->s.rig->image;
    if (!rgp_disassembly_writer(image, p->s.loop->first, UINT32_MAX, &step) || step.op != RGP_OP_PID) {
        return command_fails(p->s.self,
                             "'%s' has no gains: only a pid loop has, and 'rigpulse survey' tries the numbers of "
                             "any other one",
                             p->s.name);
    }
    p->predict = rgp_loop_predict(image, p->t.loop);
    proposal_side *standing = &p->side[PROPOSAL_STANDING];
    tune_file_gains(&p->t, standing->gain);
    standing->pid = ((const rgp_pid_loop_config *)rgp_decoded_config(&step))->pid;
    float *const gain[TUNE_GAINS] = {&standing->pid.gain.kp, &standing->pid.gain.ki, &standing->pid.gain.kd};
    for (uint32_t i = 0; i < TUNE_GAINS; i++) {
        *gain[i] = (float)(standing->gain[i] * tune_gain_scale(&p->t, i));
    }
    return true;
}

static bool cuts_out(const proposal *p)
{
    rgp_decoded step;
    return rgp_disassembly_writer(p->s.rig->image, p->s.loop->first, UINT32_MAX, &step) &&
           ((const rgp_pid_loop_config *)rgp_decoded_config(&step))->loop.beyond > 0.0f;
}

static double ramp_of(const proposal *p)
{
    rgp_decoded step;
    return rgp_disassembly_writer(p->s.rig->image, p->s.loop->first, UINT32_MAX, &step)
               ? (double)((const rgp_pid_loop_config *)rgp_decoded_config(&step))->loop.ramp
               : 0.0;
}

static const rgp_image_actuator *actuator_of(const proposal *p)
{
    return (const rgp_image_actuator *)rgp_image_at(p->s.rig->image, RGP_SECTION_ACTUATORS) + p->s.loop->actuator;
}

/* Of a constant, and of a parameter as it starts; NAN of an expression. */
static double setpoint_of(const proposal *p)
{
    const rgp_image_header *image = p->s.rig->image;
    const uint16_t ref = p->s.loop->setpoint;
    return ref & RGP_REF_CONSTANT
               ? (double)((const float *)rgp_image_at(image, RGP_SECTION_CONSTANTS))[ref & ~RGP_REF_CONSTANT]
           : ref < rgp_image_count(image, RGP_SECTION_PARAMS)
               ? (double)((const rgp_image_param *)rgp_image_at(image, RGP_SECTION_PARAMS))[ref].initial
               : (double)NAN;
}

static double mean_of(const double *value, size_t count)
{
    double sum = 0.0;
    for (size_t i = 0; i < count; i++) {
        sum += value[i] / (double)count;
    }
    return sum;
}

/* ---- what nothing is suggested from ---------------------------------------------------------------- */

/* A finding: the model is sound, or not, and says so by itself. */
static bool decline(proposal *p, const char *format, ...) G_GNUC_PRINTF(2, 3);

static bool decline(proposal *p, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    if (p->o->json) {
        command_print_json(json_pack("{s:s, s:s}", "loop", p->s.name, "declined", text));
    } else {
        printf("nothing is suggested for '%s': %s\n", p->s.name, text);
    }
    return false;
}

/* The output that holds the setpoint, by the model. */
static bool find_place(proposal *p)
{
    const subject *s = &p->s;
    const double low = (double)p->side[PROPOSAL_STANDING].pid.low, high = (double)p->side[PROPOSAL_STANDING].pid.high,
                 setpoint = setpoint_of(p), way = p->p.kind == RGP_PROCESS_FALLING ? -1.0 : 1.0,
                 there = way * (setpoint - p->p.rest) / p->p.gain.value;
    p->led = isnan(setpoint);
    p->at = isnan(there) ? mean_of(s->of.driven, s->of.rows) : there;
    return (p->at > low && p->at < high) ||
           decline(p,
                   "to hold %.4g%s%s '%s' would have to be driven with %s %s, and it goes from %.4g to %.4g: no "
                   "gains do that",
                   setpoint, *s->measured_unit ? " " : "", s->measured_unit, s->actuator, rgp_digits(p->at, 3).text,
                   s->driven_unit, low, high);
}

static bool fits_loop(proposal *p)
{
    const subject *s = &p->s;
    const rgp_pid_config *pid = &p->side[PROPOSAL_STANDING].pid;
    const rgp_image_actuator *a = actuator_of(p);
    const bool falls = p->p.gain.value < 0.0, one_way = a->rest <= pid->low || a->rest >= pid->high;
    if (falls != (pid->reverse != 0)) {
        return decline(p, "'%s' %s when '%s' rises: %s, before any gains help", s->measured, falls ? "falls" : "rises",
                       s->actuator, falls ? "put 'reverse' below the loop" : "take 'reverse' out of the loop");
    }
    if (p->p.kind == RGP_PROCESS_FALLING && !cuts_out(p)) {
        return decline(p,
                       "'%s' falls without its loop: first put 'cut out beyond ...' below the loop, so that '%s' rests "
                       "when it has fallen",
                       s->measured, s->actuator);
    }
    if (p->p.kind == RGP_PROCESS_INTEGRAL && !p->p.begins && one_way) {
        return decline(p,
                       "'%s' goes on and on as long as it is driven, and '%s' can only push one way: what goes "
                       "beyond the setpoint does not come back, whatever the gains",
                       s->measured, s->actuator);
    }
    return true;
}

static bool fit(proposal *p, int *status)
{
    if (!subject_fit(&p->s, &p->p)) {
        return false;
    }
    g_autoptr(GPtrArray) doubts = subject_doubts(&p->s, &p->p);
    *status = EXIT_FAULT;
    if (doubts->len > 0) {
        return decline(p, "%s%s", (const char *)doubts->pdata[0],
                       doubts->len > 1 ? "; 'rigpulse model' says what else" : "");
    }
    return fits_loop(p) && find_place(p);
}

/* ---- tests ----------------------------------------------------------------------------------------- */

/* To the nearest of 1, 2, 5 and 10 times a power of ten. */
static double rounded(double x)
{
    const double power = pow(10.0, floor(log10(x))), digit = x / power;
    return power * (digit >= sqrt(50.0) ? 10.0 : digit >= sqrt(10.0) ? 5.0 : digit >= sqrt(2.0) ? 2.0 : 1.0);
}

/* A test of which nothing is said is so great that the loop answers well off its limits. */
static void choose_sizes(proposal *p)
{
    const rgp_pid_config *pid = &p->side[PROPOSAL_SUGGESTED].pid;
    const double travel = (double)pid->high - (double)pid->low,
                 room = ROOM_SHARE * fmin((double)pid->high - p->at, p->at - (double)pid->low),
                 kick = fmin(KICK_SHARE * travel, room) / fmax((double)pid->gain.kp, 1e-30);
    const bool integral = p->p.kind == RGP_PROCESS_INTEGRAL;
    const double step = rounded(integral ? kick : fmin(kick, room * p->found.plant.gain)),
                 push = rounded(fmin(PUSH_SHARE * travel, room));
    p->size[PROPOSAL_STEP] = p->o->step ? p->size[PROPOSAL_STEP] : step;
    p->size[PROPOSAL_PUSH] = p->o->push ? p->size[PROPOSAL_PUSH] : push;
}

static bool take_sizes(proposal *p)
{
    const struct {
        const char *option, *text;
        tune_test test;
        int which;
    } wanted[] = {{"--step", p->o->step, TUNE_STEP, PROPOSAL_STEP}, {"--push", p->o->push, TUNE_PUSH, PROPOSAL_PUSH}};
    for (size_t i = 0; i < G_N_ELEMENTS(wanted); i++) {
        g_autofree char *why = NULL;
        if (wanted[i].text &&
            !tune_parse_amount(&p->t, wanted[i].test, wanted[i].text, &p->size[wanted[i].which], &why)) {
            return command_fails(p->s.self, "%s %s", wanted[i].option, why);
        }
    }
    return true;
}

static void rehearse(proposal *p, proposal_side *side, int which)
{
    rgp_plant plant = p->found.plant;
    plant.gain = copysign(plant.gain, p->p.gain.value);
    rgp_rehearsal how = {.plant = &plant,
                         .pid = &side->pid,
                         .predict = p->predict,
                         .tick = p->s.of.row_s,
                         .stride = (uint32_t)lround(p->s.of.step_s / p->s.of.row_s),
                         .noise = p->p.left,
                         .resolution = p->p.step,
                         .ramp = ramp_of(p),
                         .slew = (double)actuator_of(p)->slew,
                         .at = p->at,
                         .length = p->length,
                         .size = p->size[which],
                         .test = which == PROPOSAL_STEP ? RGP_RESPONSE_STEP : RGP_RESPONSE_DISTURBANCE};
    rgp_rehearsed_free(side->of[which]);
    side->of[which] = rgp_rehearse(&how);
}

/* ---- gains ----------------------------------------------------------------------------------------- */

/* A setting of the loop by its word; NULL: this loop has no such place. */
static double *setting(const proposal *p, proposal_side *side, const char *word)
{
    for (uint32_t i = 0; i < p->t.settings; i++) {
        if (strcmp(p->t.setting[i].name, word) == 0) {
            return &side->gain[p->t.gains + i];
        }
    }
    return NULL;
}

/* Three digits say as much as the model knows, and are what a person would write. */
static double written(double gain)
{
    char text[G_ASCII_DTOSTR_BUF_SIZE];
    g_ascii_formatd(text, sizeof text, "%.3g", gain);
    return g_ascii_strtod(text, NULL);
}

static void take_gains(proposal *p)
{
    proposal_side *to = &p->side[PROPOSAL_SUGGESTED];
    const rgp_pid_gains *found = &p->found.gain;
    const float gain[TUNE_GAINS] = {found->kp, found->ki, found->kd};
    float computed[TUNE_GAINS];
    *to = (proposal_side){.pid = p->side[PROPOSAL_STANDING].pid};
    memcpy(to->gain, p->side[PROPOSAL_STANDING].gain, sizeof to->gain);
    for (uint32_t i = 0; i < TUNE_GAINS; i++) {
        const double scale = tune_gain_scale(&p->t, i);
        to->gain[i] = written((double)gain[i] / scale);
        computed[i] = (float)(to->gain[i] * scale);
    }
    double *filter = setting(p, to, "filter");
    if (filter && found->kd > 0.0f) {
        *filter = written((double)found->filter);
    }
    to->pid.gain = (rgp_pid_gains){computed[0], computed[1], computed[2], filter ? (float)*filter : found->filter};
}

/* A new setpoint pushes with less and less of its step, until it is not gone beyond. */
static void make_shy(proposal *p)
{
    static const double weights[] = {0.75, 0.5, 0.25, 0.0};
    proposal_side *to = &p->side[PROPOSAL_SUGGESTED];
    double *weight = setting(p, to, "weight");
    for (size_t i = 0; weight && i < G_N_ELEMENTS(weights) && *weight > 0.0; i++) {
        const rgp_spread beyond = rgp_rehearsed_figure(to->of[PROPOSAL_STEP], offsetof(rgp_response, overshoot));
        if (beyond.of == 0 || beyond.median < SHY_MOST) {
            break;
        }
        *weight = fmin(*weight, weights[i]);
        to->pid.setpoint_softness = (float)(1.0 - *weight);
        rehearse(p, to, PROPOSAL_STEP);
    }
}

static bool suggest(proposal *p)
{
    const rgp_suggestion_ask ask = {&p->p, &p->side[PROPOSAL_STANDING].pid, p->want, p->s.of.step_s, p->predict};
    if (!rgp_suggestion_of(&ask, &p->found)) {
        const double most = rgp_falling_step(&p->found.plant);
        return p->p.kind != RGP_PROCESS_FALLING
                   ? decline(p, "no gains make this loop %s: it steps each %g ms, too slowly for a lag of %s s",
                             p->want->word, 1e3 * p->s.of.step_s, rgp_digits(p->found.plant.lag, 3).text)
               : most > p->s.of.step_s ? decline(p, "the noise of its readings leaves no gains that hold it up: smooth "
                                                    "them, or take a better sensor")
               : most > 0.0
                   ? decline(p, "no gains hold it up with margins: its loop steps each %s ms, and %s ms would do",
                             rgp_digits(1e3 * p->s.of.step_s, 3).text, rgp_digits(1e3 * most, 3).text)
                   : decline(p,
                             "no gains hold it up with margins: a dead time of %s s is too long for what falls away "
                             "by e in %s s",
                             rgp_digits(p->found.plant.dead, 3).text, rgp_digits(p->found.plant.lag, 3).text);
    }
    take_gains(p);
    const rgp_pid_gains *g = &p->side[PROPOSAL_SUGGESTED].pid.gain;
    p->length = TAUS * (p->found.tau + p->found.plant.dead + p->s.of.step_s) +
                INTEGRALS * (double)(g->ki > 0.0f ? g->kp / g->ki : 0.0f);
    choose_sizes(p);
    for (int i = 0; i < PROPOSAL_SIDES; i++) {
        proposal_side *side = &p->side[i];
        rgp_suggestion_judge(&p->found, &side->pid.gain, p->s.of.step_s);
        side->margins = p->found.margins;
        side->corners = p->found.corners;
        side->worst = p->found.worst;
        for (int k = 0; k < PROPOSAL_TESTS; k++) {
            rehearse(p, side, k);
        }
    }
    if (p->want->shy) {
        make_shy(p);
    }
    return true;
}

/* ---- all of it ------------------------------------------------------------------------------------- */

static bool find_want(proposal *p, const command *self)
{
    p->want = rgp_want_of(p->o->want ? p->o->want : "steady");
    if (!p->want) {
        const char *all[RGP_WANTS];
        for (size_t i = 0; i < RGP_WANTS; i++) {
            all[i] = rgp_wants[i].word;
        }
        names_refuse(self, "--want", "character", p->o->want, all, RGP_WANTS);
    }
    return p->want != NULL;
}

bool proposal_make(proposal *p, const command *self, const proposal_options *o, const char *path, const char *loop,
                   int *status)
{
    *p = (proposal){.o = o};
    *status = EXIT_USAGE;
    tune_begin(&p->t, self, path);
    return command_seed(self, o->of.seed, &p->t.seed) && find_want(p, self) &&
           subject_find(&p->s, self, &o->of, path, loop) && tune_find(&p->t, p->s.rig, loop) && take_pid(p) &&
           take_sizes(p) && subject_take(&p->s) && fit(p, status) && suggest(p);
}

void proposal_clear(proposal *p)
{
    for (int i = 0; i < PROPOSAL_SIDES; i++) {
        for (int k = 0; k < PROPOSAL_TESTS; k++) {
            rgp_rehearsed_free(p->side[i].of[k]);
        }
    }
    rgp_process_clear(&p->p);
    tune_end(&p->t);
    subject_clear(&p->s);
}

static bool try_one(proposal *p, tune_bench *b, tune_test test, double size)
{
    g_autofree char *why = NULL;
    tune_bench_settle(b);
    return tune_bench_test(b, test, size, 0, &why) > 0 || command_fails(p->s.self, "--try: %s", why);
}

bool proposal_try(proposal *p)
{
    g_autoptr(GError) error = NULL;
    if (!rigfile_fits_port(p->s.self, p->s.rig, true, false, false)) { /* it is stepped, in simulated time */
        return false;
    }
    p->t.over = fmax(p->length, 30.0 * p->s.of.step_s);
    tune_bench *b = tune_bench_new(&p->t, p->side[PROPOSAL_SUGGESTED].gain, &error);
    if (!b) {
        return command_fails(p->s.self, "%s", error->message);
    }
    const bool done =
        try_one(p, b, TUNE_STEP, p->size[PROPOSAL_STEP]) && try_one(p, b, TUNE_PUSH, p->size[PROPOSAL_PUSH]);
    tune_bench_free(b);
    for (guint i = 0; done && i < PROPOSAL_TESTS; i++) {
        p->tried[i] = tune_try_at(&p->t, i);
    }
    return done;
}

const tune_try *proposal_broken(const proposal *p)
{
    const tune_try *broken = NULL;
    for (int i = 0; i < PROPOSAL_TESTS && !broken; i++) {
        broken = p->tried[i] && p->tried[i]->stopped ? p->tried[i] : NULL;
    }
    return broken;
}
