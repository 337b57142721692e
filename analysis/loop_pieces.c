/* A run of a loop in pieces. */
#include "loop_pieces.h"

#include "explain/disassembly.h"
#include "loop_parts.h"
#include "rigpulse/image.h"

#include <math.h>

#define LEAP 10.0 /* ticks */

const rgp_pid_config *rgp_loop_pid(const rgp_image_header *image, uint32_t loop)
{
    const rgp_image_loop *l = rgp_image_loop_at(image, loop);
    const bool has_name = rgp_image_name_of(image, RGP_NAME_SLOT, l->measured, 0) != NULL;
    rgp_decoded step;
    return rgp_disassembly_writer(image, l->first, UINT32_MAX, &step) && step.op == RGP_OP_PID &&
                   (step.in[1] == l->measured || has_name)
               ? &((const rgp_pid_loop_config *)step.config)->pid
               : NULL;
}

const rgp_predict_config *rgp_loop_predict(const rgp_image_header *image, uint32_t loop)
{
    rgp_decoded controller, step;
    return rgp_disassembly_writer(image, rgp_image_loop_at(image, loop)->first, UINT32_MAX, &controller) &&
                   controller.op == RGP_OP_PID && rgp_disassembly_writer(image, controller.in[1], UINT32_MAX, &step) &&
                   step.op == RGP_OP_PREDICT
               ? step.config
               : NULL;
}

float rgp_loop_gain_scale(const rgp_image_header *image, uint32_t loop, uint32_t gain)
{
    const rgp_image_loop *l = rgp_image_loop_at(image, loop);
    rgp_decoded step;
    return l->gain[gain] != RGP_REF_NONE && rgp_disassembly_writer(image, l->first, UINT32_MAX, &step)
               ? rgp_disassembly_scale(image, &step, l->gain[gain])
               : 1.0f;
}

static void piece_free(gpointer data)
{
    rgp_loop_piece_drop(data);
    g_free(data);
}

static bool same_gains(const rgp_pid_gains *a, const rgp_pid_gains *b)
{
    return a->kp == b->kp && a->ki == b->ki && a->kd == b->kd;
}

typedef struct cutting {
    rgp_history *h;
    uint32_t loop;
    const rgp_image_loop *is;
    const rgp_pid_config *pid;
    float scale[3]; /* of the gains */
    GPtrArray *all;
    uint32_t gains;
} cutting;

static rgp_pid_gains gains_at(const cutting *c, uint64_t row)
{
    float value[3] = {c->pid->gain.kp, c->pid->gain.ki, c->pid->gain.kd};
    for (uint32_t i = 0; i < 3; i++) {
        value[i] =
            c->is->gain[i] != RGP_REF_NONE ? c->scale[i] * rgp_history_setting(c->h, c->is->gain[i], row) : value[i];
    }
    return (rgp_pid_gains){value[0], value[1], value[2], c->pid->gain.filter};
}

/* Rows from one up to another, in parts. */
static void add(cutting *c, uint64_t from, uint64_t to, const rgp_pid_gains *gains, bool lost)
{
    rgp_loop_piece all = {.history = c->h,
                          .loop = c->loop,
                          .from = from,
                          .to = to,
                          .pid = *c->pid,
                          .predict = rgp_loop_predict(rgp_history_image(c->h), c->loop),
                          .gains = c->gains,
                          .lost = lost};
    all.pid.gain = *gains;
    rgp_loop_parts(&all, c->all);
}

static bool has_columns(const cutting *c)
{
    return rgp_history_slot(c->h, c->is->first + RGP_TERM_TARGET) >= 0 &&
           rgp_history_slot(c->h, c->is->first + RGP_TERM_ERROR) >= 0;
}

/* The clock leaps, or ticks are missing: the rows do not follow one another. */
static bool leaps(const cutting *c, uint64_t row)
{
    const double apart = (double)rgp_history_time_us(c->h, row) - (double)rgp_history_time_us(c->h, row - 1);
    return apart < 0.0 || apart > LEAP * (double)rgp_history_image(c->h)->tick_us;
}

/* The next row, or one further on where nothing that a piece is cut by changes on the way. */
static uint64_t next_to_look_at(const cutting *c, uint32_t owner, uint64_t row, uint64_t to)
{
    if (row + 1 >= to || leaps(c, row + 1)) {
        return row + 1;
    }
    uint64_t next = MIN(rgp_history_stays(c->h, owner, row), rgp_history_even(c->h, row));
    for (uint32_t i = 0; i < 3; i++) {
        next = c->is->gain[i] != RGP_REF_NONE ? MIN(next, rgp_history_setting_stays(c->h, c->is->gain[i], row)) : next;
    }
    return MIN(next, to);
}

static void cut(cutting *c, uint64_t from, uint64_t to)
{
    const uint32_t owner = rgp_history_owner(c->h, c->is->actuator);
    uint64_t begin = from;
    bool drove = false;
    rgp_pid_gains gains = {0};
    for (uint64_t row = from; row <= to; row = next_to_look_at(c, owner, row, to)) {
        const bool drives = row < to && rgp_history_value(c->h, owner, row) == (float)c->is->claim;
        const rgp_pid_gains now = drives ? gains_at(c, row) : gains;
        const bool anew = drives && (!drove || !same_gains(&now, &gains) || leaps(c, row));
        if (drove && (!drives || anew)) {
            add(c, begin, row, &gains, !drives && row < to);
        }
        c->gains += drives && c->all->len > 0 && !same_gains(&now, &gains);
        begin = anew ? row : begin;
        gains = now;
        drove = drives;
    }
}

GPtrArray *rgp_loop_pieces(rgp_history *h, uint32_t loop, uint64_t from, uint64_t to)
{
    const rgp_image_header *image = rgp_history_image(h);
    cutting c = {.h = h, .loop = loop, .is = rgp_image_loop_at(image, loop), .pid = rgp_loop_pid(image, loop)};
    if (!c.pid || !has_columns(&c)) {
        return NULL;
    }
    for (uint32_t i = 0; i < 3; i++) {
        c.scale[i] = rgp_loop_gain_scale(image, loop, i);
    }
    c.all = g_ptr_array_new_with_free_func(piece_free);
    cut(&c, MAX(from, rgp_history_first(h)), MIN(to, rgp_history_end(h)));
    return c.all;
}
