/* News of a stage that learns while it runs (zero, span). */
#ifndef RIGPULSE_LEARNING_H
#define RIGPULSE_LEARNING_H

#include <stdint.h>

/* It goes on learning, or has nothing new; it has learned; it has not, and begins anew; it has not, and gave up. */
enum { RP_LEARNING_ON, RP_LEARNING_DONE, RP_LEARNING_ANEW, RP_LEARNING_GAVE_UP };

typedef struct rp_learning {
    uint8_t what;  /* RP_LEARNING_... */
    uint8_t going; /* 1: there will be more */
    float value;   /* input unit: what was learned; of GAVE_UP and ANEW how far it moved */
} rp_learning;

#endif
