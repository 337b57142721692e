/* A sensor's answer to an actuator that was driven in some blocks of time and left at rest in others, in an order drawn
 * at random: see contrast.h. */
#ifndef ANALYSIS_ANSWER_H
#define ANALYSIS_ANSWER_H

#include "contrast.h"

#include "runtime/history.h"

/* Rows from `from` up to, and not with, `to`, all of about the same length. */
typedef struct rgp_block {
    uint64_t from, to;
    bool on;
} rgp_block;

/* A block's value: where the sensor then was (the median of its second half); how fast it went (the mean of its last
 * third less that of its first, by the time between them), for what stays where it was put; or how much it moved (the
 * standard deviation of its second half), for what is shaken. */
typedef enum rgp_answer_by { RGP_ANSWER_LEVEL, RGP_ANSWER_RATE, RGP_ANSWER_SPREAD } rgp_answer_by;

typedef struct rgp_answer {
    bool known;    /* at least three quarters of the blocks had readings */
    bool answered; /* chance is at most RGP_ANSWER_CHANCE_MOST */
    rgp_answer_by by;
    double effect, band; /* driven less at rest, ± for 19 of 20; in the sensor's unit, or that a second */
    double chance;       /* of an answer as strong where there is none, in any of the sensors and by either value */
    double after;        /* seconds into a block from which on it answers; below 0: it does not */
    double seen; /* the smallest effect on the level that would have been seen in 9 of 10 trials like this one */
} rgp_answer;

#define RGP_ANSWER_CHANCE_MOST 0.0005 /* an answer: half of 1 in 1000, so that the statement has room */
#define RGP_ANSWER_SEEN        5.0    /* standard errors that nine trials in ten find (measured at 10 + 10 blocks) */
#define RGP_ANSWER_BLOCK_ROWS  20u    /* a block has at least so many */

/* The even number of blocks by which one of so many sensors can be told to answer. */
uint32_t rgp_answer_blocks(uint32_t sensors);

/* By the level and by one other value. */
rgp_answer rgp_answer_of(const rgp_history *history, uint32_t column, const rgp_block *block, uint32_t blocks,
                         uint32_t sensors, rgp_answer_by other);

/* "answers: up by 67 counts/s ±9, from about 0.78 s on (chance under 1 in 40000)"; `unit` is NULL for a sensor that
 * gives no numbers. */
void rgp_answer_describe(const rgp_answer *answer, const char *unit, uint32_t tick_us, GString *to);

/* By one of the two values alone, of one sensor that is known to answer. */
rgp_contrast rgp_answer_contrast(const rgp_history *history, uint32_t column, const rgp_block *block, uint32_t blocks,
                                 rgp_answer_by by);

#endif
