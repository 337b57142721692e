/* The memory of a running rig: the types of its arrays, and where each lies in the caller's block (memory.def). Offsets
 * and sizes are the same on every machine. */
#ifndef RIGPULSE_IMAGE_MEMORY_H
#define RIGPULSE_IMAGE_MEMORY_H

#include "rigpulse/detect/edges.h"
#include "rigpulse/drive/claim.h"
#include "rigpulse/drive/pulse.h"
#include "rigpulse/image.h"

/* The scalars of the engine. */
typedef struct rgp__engine_head {
    uint64_t now_us;      /* time of this tick on the engine's own clock, which never goes back */
    uint64_t port_us;     /* what the port said then */
    uint64_t passed_us;   /* since the last tick that took time */
    uint64_t next_end_us; /* no timed action ends before */
    uint32_t ticks;       /* done so far */
    uint32_t always;      /* RGP__DUE_... (engine/phase.h) that are due in every tick */
    uint32_t due;         /* RGP__DUE_... that somebody has made so */
    uint32_t requests;    /* of sequences, not taken up yet */
    float dt;             /* `passed_us` in seconds */
    float bound;          /* percent of the travel away from rest; 100: no bound */
    uint16_t stopped_by;  /* a stop, or RGP_REF_NONE: by hand */
    uint8_t stopped;
    uint8_t hand_only;   /* rules, sequences, loops and continuous drives drive nothing */
    uint8_t lags;        /* in this tick not all sensors are new, or a pace sums time */
    uint8_t behind;      /* a pace was not new in this tick: it sums time */
    uint8_t steady;      /* the image has steady runs */
    uint8_t unmoved;     /* in this tick sensors and parameters are as they were in the last one */
    uint32_t moves;      /* how often they were not */
    uint32_t wanting_at; /* `moves` when the rules that want to fire were looked for */
} rgp__engine_head;

typedef struct rgp__actuator_state {
    uint64_t driven_us; /* away from rest without a break, as it was written */
    int64_t credit;     /* what it has left of its duty, in microseconds times parts per million */
    float wanted;       /* what its owner asks; found anew in every tick where it is shaped */
    float shaped;       /* what came of that, before guards */
    uint64_t due_us;    /* before that it is written only when it has changed; a lost one, not at all */
    float written;      /* last, as the port takes it */
    uint16_t owner;     /* a claim, or RGP_OWNER_... */
    uint8_t relief;     /* RGP__RELIEF_... */
    uint8_t lost;       /* the port cannot drive it */
    uint8_t told_lost;  /* as far as the tick has taken that up */
    uint8_t reserved[7];
} rgp__actuator_state;

/* The reasons why an actuator is kept from what its owner asks, or goes to rest faster than its slew. */
enum {
    RGP__RELIEF_ON_TIME = 1, /* driven for its longest, or without moving anything: it rests until nobody asks for
                            anything else */
    RGP__RELIEF_DUTY = 2,    /* it has used up its duty, and rests until all of it is back */
    RGP__RELIEF_FAULT =
        4 /* a fault has taken it from its owner in this tick: if nobody else has it, it rests at once */
};

typedef struct rgp__rule_state {
    rgp_pulse_state pulse;
    uint8_t blocked; /* a sensor that it needs has a fault */
    uint8_t reserved[7];
} rgp__rule_state;

typedef struct rgp__sequence_state {
    uint64_t since_us; /* of this step */
    uint64_t until_us; /* its time or limit, taken when it was entered; 0: not yet */
    uint16_t step;     /* from 0 */
    uint16_t awaits;   /* slot, or RGP_REF_NONE */
    uint8_t runs;
    uint8_t ending;  /* it is on the way that its ending says */
    uint8_t drove;   /* in this tick: what it has driven shows from the next one on */
    uint8_t waits;   /* for its time, or for `awaits` */
    uint8_t blocked; /* a sensor that it needs has a fault */
    uint8_t reserved[7];
} rgp__sequence_state;

/* A sensor's newness, a byte each: 0 as soon as it is handed in, and from the next tick on FORMERLY, plus STANDS
 * when it was not. And apart from that PLAIN, while it is well and held against nothing but its range. */
enum { RGP__SENSOR_FORMERLY = 1, RGP__SENSOR_STANDS = 2, RGP__SENSOR_PLAIN = 4 };

/* A sensor that is held against more than its range, or has faults. */
typedef struct rgp__watch {
    rgp_supervision_state supervision;
    uint64_t fault_us; /* without a usable reading; while that is a fault, with usable ones */
    uint8_t fault;
    uint8_t reserved[7];
} rgp__watch;

typedef struct rgp__edge_queue {
    rgp_port_edge edge[RGP_EDGES_KEPT]; /* oldest first, on the engine's own clock */
    uint32_t count, lost;
    uint32_t told;           /* the port tells them; else they are found in its readings */
    rgp_edges_memory memory; /* to find them in readings, where the port does not tell them */
    uint8_t reserved[2];
} rgp__edge_queue;

typedef struct rgp__pace {
    uint64_t since_us; /* since one of its sensors was new */
    float dt;          /* when one is: seconds since one was before */
    uint32_t fresh;    /* one is, in this tick */
} rgp__pace;

typedef struct rgp__stall_state {
    uint64_t still_us; /* of being driven since it moved last */
    float at;          /* where what should move was then */
    uint32_t reserved;
} rgp__stall_state;

typedef struct rgp__param_state {
    float next;     /* what a rule has asked for */
    uint32_t asked; /* a rule has asked in this tick */
} rgp__param_state;

/* A sequence is to begin, or to end. */
typedef struct rgp__request {
    uint16_t sequence;
    uint8_t begins;
    uint8_t anew; /* from its first step, when it runs already */
} rgp__request;

enum {
#define RGP__MEMORY(name, type, count, begin) RGP__PART_##name,
#include "image/memory.def"
    RGP__PARTS
};

typedef struct rgp__layout {
    uint32_t offset[RGP__PARTS];
    uint32_t size;
} rgp__layout;

rgp__layout rgp__image_layout(const rgp_image_header *image);

/* The sensors and parameters that are looked at for steady runs, and the words of a bit for each rule; 0: there are no
 * such runs. */
uint32_t rgp__image_seen(const rgp_image_header *image);
uint32_t rgp__image_rule_words(const rgp_image_header *image);

/* The number of sensors that are held against more than their range; of those whose edges are measured; of requests of
 * sequences that there can be at once; and the bytes of the states of all operations. */
uint32_t rgp__image_supervised(const rgp_image_header *image);
uint32_t rgp__image_timed(const rgp_image_header *image);
uint32_t rgp__image_requests(const rgp_image_header *image);
uint32_t rgp__image_state_bytes(const rgp_image_header *image);

#endif
