/* News of a stage that learns while it runs (zero, span). */
#ifndef RIGPULSE_LEARNING_H
#define RIGPULSE_LEARNING_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* The news since it was asked last. */
enum {
    RGP_LEARNING_ON,     /* it goes on, or has nothing new */
    RGP_LEARNING_DONE,   /* it has learned: from now on its output can be used */
    RGP_LEARNING_ANEW,   /* it has not, and begins anew */
    RGP_LEARNING_GAVE_UP /* it has not, and will not by itself */
};

/* A block's answer. It is asked between steps, and forgets what it has told. */
typedef struct rgp_learning {
    uint8_t what;  /* RGP_LEARNING_... */
    uint8_t going; /* 1: there will be more */
    float value;   /* input unit: what was learned; of GAVE_UP and ANEW how far it moved */
} rgp_learning;

RGP_DECLARATIONS_END

#endif
