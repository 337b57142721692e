/* The rig language: the text of a rig file becomes an image, or a list of what is wrong with it.
 *
 * Host code; needs the C standard library only. Nothing here prints, exits, or touches a file. A rig belongs to whoever
 * compiled it, with everything that hangs on it; one thread at a time may use it, different rigs at the same time. The
 * time to compile grows with the length of the text. */
#ifndef RIGPULSE_LANG_H
#define RIGPULSE_LANG_H

#include "rigpulse/catalog.h"
#include "rigpulse/linkage.h"

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* ---- what was hooked up -------------------------------------------------------------------------- */

/* A number as it stands in the source, its sign with it. */
typedef struct rgp_written {
    uint32_t start, end; /* bytes; both 0: it is not written */
    const char *unit;    /* that it is written in; "" for none */
} rgp_written;

/* A line that makes a mechanism: `KIND NAME: SETTINGS, INPUT by ACTUATOR`. */
typedef struct rgp_mechanism_item {
    const rgp_mechanism_kind *kind;          /* of the port's catalogue */
    const char *name;                        /* as the file calls it */
    uint32_t line;                           /* of the file */
    const char *unit;                        /* its own (RGP_UNIT_OWN); "" for none */
    double value[RGP_KIND_SETTINGS_MAX];     /* in the settings' order and units; of a text 1 when it is written */
    const char *text[RGP_KIND_SETTINGS_MAX]; /* of those that are texts; NULL: it is not written */
    rgp_written written[RGP_KIND_SETTINGS_MAX];
    uint32_t end;                             /* the byte behind its line's last word */
    bool bare;                                /* nothing stands behind its name */
    int32_t actuator[RGP_KIND_TERMINALS_MAX]; /* that drives each input, or -1 */
    double gain[RGP_KIND_TERMINALS_MAX];      /* input = gain * what is written + offset */
    double offset[RGP_KIND_TERMINALS_MAX];    /* likewise */
} rgp_mechanism_item;

#define RGP_SENSOR_POINTS_MAX 16 /* of one sensor */

/* A line that says how a sensor gets its readings. Which of the fields count depends on its kind's source. */
typedef struct rgp_sensor_item {
    const rgp_sensor_kind *kind; /* of the port's catalogue */
    uint32_t sensor;             /* its number in the rig */
    uint32_t line;               /* of the file */
    uint32_t mechanism, output;  /* of RGP_SOURCE_MECHANISM: what is seen */
    const char *path;            /* of RGP_SOURCE_FILE */
    const char *column;          /* likewise; NULL for the first. Of RGP_SOURCE_DEVICE: its name; NULL: by its number */
    double constant; /* of RGP_SOURCE_CONSTANT; of RGP_SOURCE_CLOCK: seconds since midnight, at the start; of
                        RGP_SOURCE_DEVICE, whose device is `mechanism`: the column, from 1 */
    uint32_t points; /* of `raw` and `seen` */
    double seen[RGP_SENSOR_POINTS_MAX];      /* rising, in the output's unit */
    double raw[RGP_SENSOR_POINTS_MAX];       /* readings */
    double value[RGP_KIND_SETTINGS_MAX];     /* in the settings' order and units; of a text 1 when it is written */
    const char *text[RGP_KIND_SETTINGS_MAX]; /* of those that are texts; NULL: it is not written */
} rgp_sensor_item;

/* A line that says how an actuator is driven: `ACTUATOR VERB "TEXT" to DEVICE: SETTINGS`. */
typedef struct rgp_actuator_item {
    const rgp_actuator_kind *kind;           /* of the port's catalogue */
    uint32_t actuator;                       /* its number in the rig */
    uint32_t line;                           /* of the file */
    uint32_t mechanism;                      /* the device */
    const char *sent;                        /* the text; the kind's mark stands in it once */
    double value[RGP_KIND_SETTINGS_MAX];     /* in the settings' order and units; of a text 1 when it is written */
    const char *text[RGP_KIND_SETTINGS_MAX]; /* of those that are texts; NULL: it is not written */
} rgp_actuator_item;

/* Seconds from one new reading of a simulated sensor to the next; 0: one each tick, or as a played file has them. */
double rgp_sensor_period(const rgp_sensor_item *item);

/* A line that says what happens when: `at TIME WHOM WHAT [AMOUNT] [for TIME]`. */
typedef struct rgp_disturbance_item {
    double at_seconds, for_seconds; /* 0 when no `for` was written */
    int32_t mechanism, sensor;      /* one of them; the other is -1; of the port's clock both are */
    uint32_t which;                 /* row of the kind's disturbances, or of the clock's */
    double amount;                  /* in its unit */
    uint32_t line;                  /* of the file */
} rgp_disturbance_item;

/* A hook-up, as a port takes it to connect the rig's channels. */
typedef struct rgp_hookup {
    const char *port;                        /* "sim" */
    const rgp_catalog *catalog;              /* of that port; NULL: there is no such port */
    uint32_t line;                           /* of the file */
    const rgp_mechanism_item *mechanism;     /* by their order in the file: mechanisms, or devices */
    const rgp_sensor_item *sensor;           /* likewise */
    const rgp_actuator_item *actuator;       /* likewise; of a port whose actuators have lines of their own */
    const rgp_disturbance_item *disturbance; /* likewise */
    uint32_t mechanisms, sensors, actuators, disturbances; /* how many */
} rgp_hookup;

/* ---- the rig ------------------------------------------------------------------------------------- */

/* An error, which keeps the rig from becoming an image, or a warning. All texts are the rig's. */
typedef struct rgp_message {
    bool warning;          /* true: it runs all the same */
    uint32_t line, column; /* from 1; the column counts characters */
    uint32_t length;       /* characters from there on that it is about; 0: the place alone */
    const char *text;      /* what is wrong, in a sentence */
    const char *advice;    /* what to do, or NULL */
} rgp_message;

#define RGP_MESSAGES_MAX 20 /* of errors that are kept, and of warnings */

/* The part of the text that a computed value was made of. */
typedef struct rgp_origin {
    uint32_t start, length; /* bytes of the source; a length of 0: it was made of nothing that is written */
    const char *unit;       /* of the value; "" for none */
} rgp_origin;

/* Everything in it belongs to the rig and goes with it. */
typedef struct rgp_rig {
    const char *file;           /* the name it was given */
    const char *source;         /* a copy */
    size_t length;              /* bytes of it */
    const rgp_message *message; /* in the order of the file; at most RGP_MESSAGES_MAX of each sort */
    uint32_t messages;          /* that are kept */
    uint32_t errors, warnings;  /* as many as there were */
    const void *image;          /* NULL when there were errors; aligned to 8 bytes */
    uint32_t image_size;        /* bytes */
    const rgp_origin *origin;   /* by slot, of a rig that is traced; NULL: it is not, or had errors */
    const rgp_hookup *hookup;   /* the one that counts, by the catalogue; NULL when the file has none for that port */
    const rgp_hookup *hookups;  /* all of them, in the order of the file */
    uint32_t hookup_count;      /* how many */
    struct rgp_arena *arena;    /* where all of it lies */
    struct tree *tree;          /* what the functions of edit.h read */
} rgp_rig;

/* Reads a rig file's text of `length` bytes, whatever they are. `file` names it in messages. `catalog`
 * may be NULL: hook-ups are then not looked at. NULL only when memory has run out. */
rgp_rig *rgp_rig_compile(const char *file, const char *source, size_t length, const rgp_catalog *catalog);

/* The same with a slot for each operation, where else a result may take the place of what it is made of: so after a
 * tick all that led to a decision can be read. Every value comes out the same, bit for bit; the image needs more
 * memory, and a rig near RGP_SLOTS_MAX may not fit. */
rgp_rig *rgp_rig_compile_traced(const char *file, const char *source, size_t length, const rgp_catalog *catalog);

/* With everything in it. NULL is nothing. */
void rgp_rig_free(rgp_rig *rig);

/* The lines of the statements that drive the actuator of that name, or any (NULL), by themselves or by what stands
 * below them, in the order of the file: as many as there is `room` for. Returns how many there are. */
uint32_t rgp_rig_driving_lines(const rgp_rig *rig, const char *actuator, uint32_t *line, uint32_t room);

/* Tells the compiler that a sensor's readings have noise, which only its port may know: the warnings that come of it
 * are added to the rig's messages. Nothing happens to a rig with errors. */
void rgp_rig_warn_of_noise(rgp_rig *rig, uint32_t sensor);

/* All messages as text: `FILE:LINE:COL: error: what`, the line, a caret, the advice; a count at the end
 * when there were more than are shown. In an arena of the rig's: lives as long as it does. "" for none. */
const char *rgp_rig_report(rgp_rig *rig);

/* Reads a number with a unit ("3 cm") as a value in `unit` ("mm"), an interval on a temperature scale
 * counting as a point unless `unit` is a difference. False, and in `*why` a text that lives for ever,
 * when it is none or the units do not go together. */
bool rgp_quantity_parse(const char *text, const char *unit, double *value, const char **why);

/* Makes a text that came from a file fit to be shown, in place: each control character (C0, DEL, C1, line and paragraph
 * separators, and those that turn the direction of writing) becomes a blank, each byte that is no UTF-8 a '?'. With
 * `lines`, line ends stay. Returns the text. */
char *rgp_make_printable(char *text, bool lines);

/* Of `count` words the one that a mistyped one most likely meant; NULL when none is near. */
const char *rgp_nearest_word(const char *wrong, const char *const *words, uint32_t count);

/* Walks the language's lists, for documents and completion: 0, 1, 2, ... until it returns false. */
typedef struct rgp_word {
    const char *group;   /* "stage", "unit", "statement" */
    const char *word;    /* as it is written */
    const char *form;    /* of a unit: its other spelling, or "" */
    const char *help;    /* what it does */
    const char *example; /* of a unit: the quantity that it is of */
    const char *slip;    /* the mistake that is most often made with it, and the way out; NULL: none is known */
    const char *role;    /* of a statement, what it does: "drives an actuator"; NULL: it is no statement */
} rgp_word;
bool rgp_word_at(uint32_t index, rgp_word *word);

/* The advice for a word or a mark that people bring along from elsewhere ("if", ">", "celsius"): the words that say the
 * same here; NULL: it is not known. A constant. */
const char *rgp_word_elsewhere(const char *word);

/* The numbers that are written with a word of that list: `which` is 0, 1, 2, ... until it returns false. */
typedef struct rgp_word_setting {
    const char *word;       /* what stands before it; "" for nothing */
    const char *name;       /* "time constant" */
    const char *unit;       /* "s", "" for a bare number, or what it depends on: "the input's unit" */
    double least, greatest; /* -INFINITY, INFINITY: whatever a float holds */
    double initial;         /* when it is not written; NAN: it has to be */
    bool above;             /* more than `least`, not as much */
    bool not_zero, odd;
} rgp_word_setting;
bool rgp_word_setting_at(uint32_t index, uint32_t which, rgp_word_setting *setting);

RGP_DECLARATIONS_END

#endif
