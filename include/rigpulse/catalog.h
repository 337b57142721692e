/* The catalogue of a port, as lists: kinds of mechanisms with their settings, inputs and outputs, and ways in which
 * sensors get their readings. Handed to the compiler by whoever knows the port; equations of motion need no compiler.
 */
#ifndef RIGPULSE_CATALOG_H
#define RIGPULSE_CATALOG_H

#include <stdbool.h>
#include <stdint.h>

/* Units of a kind that is of no unit by itself: its own, which is the first that is written for it, and a difference in
 * that. */
#define RP_UNIT_OWN      "own"
#define RP_UNIT_OWN_STEP "own~"

/* A setting written as `word QUANTITY`. One marked `joined` is written behind the setting before it and
 * only there, as in `waves 2 mm every 900 ms`. */
typedef struct rp_setting {
    const char *word;
    const char *unit; /* what the value is handed over in; "" for a bare number */
    double initial, low, high;
    bool joined;
    const char *help;
} rp_setting;

/* A mechanism's input (`filled by pump`) or something that can be seen of it. */
typedef struct rp_terminal {
    const char *word;
    const char *unit;
    const char *help;
    /* Of what can be seen: 1 or -1 when it tells that the first input has brought it to that end; else 0. */
    int32_t end;
    /* Of what can be seen: 1 when it rises, now or by and by, while the first input is more, -1 when it falls; 0 when
     * that depends. */
    int32_t way;
    bool lasts; /* of a disturbance: `for TIME` ends it; else it happens at once, or until another one */
} rp_terminal;

#define RP_KIND_SETTINGS_MAX  24
#define RP_KIND_TERMINALS_MAX 10

/* A kind of mechanism. Lists end with a row without a word. */
typedef struct rp_mechanism_kind {
    const char *word;
    const char *help;
    rp_setting setting[RP_KIND_SETTINGS_MAX];
    rp_terminal input[RP_KIND_TERMINALS_MAX];
    rp_terminal output[RP_KIND_TERMINALS_MAX];
    rp_terminal disturbance[RP_KIND_TERMINALS_MAX];
    bool falls; /* it runs away by itself unless it is held: a loop on it has to cut out */
} rp_mechanism_kind;

/* A way in which a sensor gets its readings: `SENSOR verb ...: settings`. */
typedef enum rp_pickup_source {
    RP_PICKUP_MECHANISM, /* verb MECHANISM QUANTITY: RAW at QUANTITY, RAW at QUANTITY, ... */
    RP_PICKUP_FILE,      /* verb "FILE" [COLUMN] */
    RP_PICKUP_CONSTANT,  /* verb RAW */
    RP_PICKUP_CLOCK      /* verb TIME */
} rp_pickup_source;

typedef struct rp_pickup_kind {
    const char *word;
    rp_pickup_source source;
    const char *help;
    rp_setting setting[RP_KIND_SETTINGS_MAX];
    rp_terminal disturbance[RP_KIND_TERMINALS_MAX];
} rp_pickup_kind;

typedef struct rp_catalog {
    const char *port;                          /* its name: `hookup NAME` */
    const rp_mechanism_kind *const *mechanism; /* ends with NULL */
    const rp_pickup_kind *const *pickup;       /* ends with NULL */
    const rp_terminal *clock;                  /* what can happen to the port's clock; ends with a row without a word */
} rp_catalog;

#endif
