/* The catalogue of a port, as lists: kinds of mechanisms with their settings, inputs and outputs, and ways in which
 * sensors get their readings. Handed to the compiler by whoever knows the port; equations of motion need no compiler.
 */
#ifndef RIGPULSE_CATALOG_H
#define RIGPULSE_CATALOG_H

#include "rigpulse/linkage.h"

#include <stdbool.h>
#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* Units of a kind that is of no unit by itself: its own, which is the first that is written for it, and a difference in
 * that. */
#define RGP_UNIT_OWN      "own"  /* as it is */
#define RGP_UNIT_OWN_STEP "own~" /* as a difference */

/* The unit of a setting that is a text: `word "TEXT"`. */
#define RGP_UNIT_TEXT     "text"

/* A setting written as `word QUANTITY`. One marked `joined` is written behind the setting before it and
 * only there, as in `waves 2 mm every 900 ms`. */
typedef struct rgp_setting {
    const char *word;          /* as it is written */
    const char *unit;          /* what the value is handed over in; "" for a bare number; NULL: the word stands alone,
                                  and is 1 */
    double initial, low, high; /* when it is not written; the least and the greatest that it may be; in `unit` */
    bool joined;               /* it stands behind the setting before it */
    const char *help;          /* a sentence for lists and documents */
} rgp_setting;

/* A mechanism's input (`filled by pump`) or something that can be seen of it. */
typedef struct rgp_terminal {
    const char *word; /* as it is written */
    const char *unit; /* "cm"; "" of none */
    const char *help; /* a sentence for lists and documents */
    /* Of what can be seen: 1 or -1 when it tells that the first input has brought it to that end; else 0. */
    int32_t end;
    /* Of what can be seen: 1 when it rises, now or by and by, while the first input is more, -1 when it falls; 0 when
     * that depends. */
    int32_t way;
    bool lasts; /* of a disturbance: `for TIME` ends it; else it happens at once, or until another one */
} rgp_terminal;

#define RGP_KIND_SETTINGS_MAX  24 /* rows, the last one without a word among them */
#define RGP_KIND_TERMINALS_MAX 10 /* likewise */

/* A kind of mechanism. Lists end with a row without a word. */
typedef struct rgp_mechanism_kind {
    const char *word;                                 /* as it is written */
    const char *help;                                 /* a sentence for lists and documents */
    rgp_setting setting[RGP_KIND_SETTINGS_MAX];       /* ends with a row without a word */
    rgp_terminal input[RGP_KIND_TERMINALS_MAX];       /* likewise: what drives it */
    rgp_terminal output[RGP_KIND_TERMINALS_MAX];      /* likewise: what can be seen of it */
    rgp_terminal disturbance[RGP_KIND_TERMINALS_MAX]; /* likewise: what can happen to it */
    bool falls; /* it runs away by itself unless it is held: a loop on it has to cut out */
} rgp_mechanism_kind;

/* A way in which a sensor gets its readings: `SENSOR verb ...: settings`. */
typedef enum rgp_sensor_source {
    RGP_SOURCE_MECHANISM, /* verb MECHANISM QUANTITY: RAW at QUANTITY, RAW at QUANTITY, ... */
    RGP_SOURCE_FILE,      /* verb "FILE" [COLUMN] */
    RGP_SOURCE_CONSTANT,  /* verb RAW */
    RGP_SOURCE_CLOCK,     /* verb TIME */
    RGP_SOURCE_DEVICE     /* verb column NUMBER of DEVICE, or verb "NAME" of DEVICE */
} rgp_sensor_source;

typedef struct rgp_sensor_kind {
    const char *word;                                 /* as it is written */
    rgp_sensor_source source;                         /* what stands behind the verb */
    const char *help;                                 /* a sentence for lists and documents */
    rgp_setting setting[RGP_KIND_SETTINGS_MAX];       /* ends with a row without a word */
    rgp_terminal disturbance[RGP_KIND_TERMINALS_MAX]; /* likewise: what can happen to it */
} rgp_sensor_kind;

/* A way in which an actuator is driven: `ACTUATOR verb "TEXT" to DEVICE: settings`. */
typedef struct rgp_actuator_kind {
    const char *word;                           /* as it is written */
    const char *mark;                           /* stands in the text for the value, once */
    const char *help;                           /* a sentence for lists and documents */
    rgp_setting setting[RGP_KIND_SETTINGS_MAX]; /* ends with a row without a word */
} rgp_actuator_kind;

typedef struct rgp_catalog {
    const char *port;                           /* its name: `hookup NAME` */
    const char *help;                           /* a sentence for lists and documents */
    const char *thing;                          /* what a mechanism is called here, for messages: "mechanism" */
    const rgp_mechanism_kind *const *mechanism; /* ends with NULL */
    const rgp_sensor_kind *const *sensor;       /* ends with NULL */
    const rgp_actuator_kind *const *actuator; /* ends with NULL; NULL: mechanisms' inputs are driven, in their lines */
    const rgp_terminal *clock; /* what can happen to the port's clock; ends with a row without a word; NULL: nothing
                                  can be made to happen on this port */
    const struct rgp_catalog *next; /* of another port; NULL: there is none */
    const char *wanted; /* of the first catalogue: the port whose hook-up counts; NULL: the first of the file */
} rgp_catalog;

RGP_DECLARATIONS_END

#endif
