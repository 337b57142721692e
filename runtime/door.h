/* The door to a running rig: the one table of functions through which it is begun, watched, commanded and ended. A rig
 * in this process fulfils it (session.c), and a recording that is looked at or played (playback.c); a rig in another
 * process, or at the other end of a wire, can. Whoever shows, tunes, calibrates or drives by hand knows nothing else.
 *
 * Out come frames, and the history that they make; in go commands (rigpulse/command.h). A rig either runs by itself, in
 * threads of its own, or it is stepped: then it ticks in rgp_door_advance() alone, so a script repeats byte for byte.
 */
#ifndef RUNTIME_DOOR_H
#define RUNTIME_DOOR_H

#include "history.h"
#include "marks.h"
#include "rigpulse/command.h"
#include "rigpulse/lang.h"

typedef struct rgp_door rgp_door;

typedef struct rgp_door_setup {
    const rgp_rig *rig;
    const char *recording; /* instead of a rig: one that is looked at; with a `pace` it is played, as if it ran */
    uint64_t seed;
    uint64_t length_us;   /* 0: until stopped */
    bool fast;            /* simulated time, as fast as it goes */
    bool stepped;         /* it ticks when it is told to */
    bool history;         /* keep one */
    double pace;          /* so many times as fast as the wall clock; 0: once */
    bool on_word;         /* the hook-up's disturbances wait to be asked for, but those at 0 s */
    const char *record;   /* name of the recording, or NULL */
    bool overwrite;       /* an older one of that name */
    char **set;           /* NAME=VALUE ..., NULL at the end; or NULL */
    const char *retained; /* file of what survives a power cycle, or NULL */
    char **says;          /* becomes what there is to say of how it began, a line each, to be freed; NULL: nothing */
    bool dry;             /* nothing is driven */
    bool realtime;        /* ticks go before all other work, and memory is locked, where the system allows it */
    bool hand_only;       /* nothing but the hand drives */
    bool at_rest;         /* it begins stopped: everything rests, and only readings come in */
    float bound;          /* percent of its travel to which everything is driven at most; 0: all of it */

    /* Called for each frame: by the thread that records, or within rgp_door_advance(). What goes wrong with the
     * recording is said on standard error then. NULL: nobody is called, and it is only kept. Returns false to stop. */
    bool (*frame)(void *self, const rgp_frame_layout *layout, const rgp_frame *frame);
    void *self;
} rgp_door_setup;

/* The lateness of the ticks of a paced run were, in microseconds; all 0: it is not paced. */
typedef struct rgp_delay {
    uint64_t ticks, median, p99, worst;
} rgp_delay;

typedef struct rgp_door_result {
    uint64_t ticks, gaps;
    uint64_t end_us;
    rgp_status fault;   /* of the port */
    bool interrupted;   /* by a person or a signal */
    bool record_failed; /* what was wrong is in `complaint` */
    char *complaint;    /* of the recorder; the first one; to be freed */
    char *account;      /* of real devices: what there was, in lines; to be freed; NULL: nothing */
    rgp_delay delay;
} rgp_door_result;

/* The table that a maker fulfils; the functions below say what each entry does. Optional, and NULL where a maker has
 * none of it: advance, mark, remark, record, is_recording, complaint, trouble, share, delay, checkpoint, placing,
 * truth. */
typedef struct rgp_door_table {
    const char *(*refuses)(const rgp_door *door, rgp_command_kind what);
    rgp_status (*ask)(rgp_door *door, const rgp_command *command);
    bool (*advance)(rgp_door *door, uint64_t until_us);
    bool (*over)(const rgp_door *door);
    void (*pause)(rgp_door *door);
    void (*unpause)(rgp_door *door);
    rgp_history *(*look)(rgp_door *door);
    void (*look_away)(rgp_door *door);
    bool (*mark)(rgp_door *door, const char *text);
    bool (*remark)(rgp_door *door, const rgp_mark_change *change, GError **error);
    bool (*record)(rgp_door *door, const char *name, char **taken, GError **error);
    bool (*is_recording)(rgp_door *door);
    char *(*complaint)(rgp_door *door);
    char *(*trouble)(rgp_door *door);
    double (*share)(const rgp_door *door);
    rgp_delay (*delay)(const rgp_door *door);
    bool (*checkpoint)(rgp_door *door, void *memory, uint32_t bytes);
    const char *(*hand_unit)(const rgp_door *door, uint16_t sensor, const char **why);
    double (*placing)(const rgp_door *door, uint16_t sensor);
    bool (*truth)(const rgp_door *door, uint32_t mechanism, uint32_t output, double *value);
    void (*stop)(rgp_door *door);
    void (*end)(rgp_door *door, rgp_door_result *result);
} rgp_door_table;

/* Makers begin their own struct with it. */
struct rgp_door {
    const rgp_door_table *is;
    const rgp_rig *rig;
    const char *ending; /* of a recording: how its run ended, in words; else NULL */
};

/* It runs, or stands before its first tick. NULL with *error. The setup must live until the end. */
rgp_door *rgp_door_open(const rgp_door_setup *setup, GError **error);

/* Ends it, with everything at rest; *result may be NULL. The door is gone then. */
void rgp_door_end(rgp_door *door, rgp_door_result *result);

/* Frees the texts of a result. */
void rgp_door_result_clear(rgp_door_result *result);

/* The same without a look in between: runs to its own end. False when it could not begin: then *error says why. */
bool rgp_door_run(const rgp_door_setup *setup, rgp_door_result *result, GError **error);

/* The reason, in words, why such a command is refused now: of a recording all are. NULL: it may be asked. */
const char *rgp_door_refuses(const rgp_door *door, rgp_command_kind what);

/* A command, which counts from the next tick on; commands count in the order in which they were asked. RGP_E_INDEX,
 * RGP_E_RANGE: the rig has no such thing or value; RGP_E_ROOM: too many at once; RGP_E_UNSUPPORTED: it is refused. */
rgp_status rgp_door_ask(rgp_door *door, const rgp_command *command);

/* Of a stepped rig: all ticks before a time. Stops early when a person interrupts. False when there are none any
 * more: it is over, or the port is lost. */
bool rgp_door_advance(rgp_door *door, uint64_t until_us);

bool rgp_door_over(const rgp_door *door);
void rgp_door_stop(rgp_door *door);

/* Everything to rest, and no tick until it goes on; returns when that is so. What passes meanwhile is not the rig's
 * time. */
void rgp_door_pause(rgp_door *door);
void rgp_door_unpause(rgp_door *door);

/* The history, which stands still until it is given back. */
rgp_history *rgp_door_look(rgp_door *door);
void rgp_door_look_away(rgp_door *door);

/* A mark with a person's word at the newest tick, in the history and in the recording. False: it is refused. */
bool rgp_door_mark(rgp_door *door, const char *text);

/* Changes the marks of a recording that is looked at, and its file. False with *error, and nothing is changed. */
bool rgp_door_remark(rgp_door *door, const rgp_mark_change *change, GError **error);

/* Begins a recording, or ends it (name NULL). One that is there already stays: *taken, to be freed, becomes the name
 * that was free. False with *error when it cannot be written. */
bool rgp_door_record(rgp_door *door, const char *name, char **taken, GError **error);
bool rgp_door_is_recording(rgp_door *door);

/* The recorder's complaint; NULL if nothing. To be freed. */
char *rgp_door_complaint(rgp_door *door);

/* The trouble with a real device now, in a line; NULL: none. To be freed. */
char *rgp_door_trouble(rgp_door *door);

/* The share of a recording that has been read, 0 to 1: its first rows are there at once, the others come while it is
 * looked at. 1 of all else. */
double rgp_door_share(const rgp_door *door);

rgp_delay rgp_door_delay(const rgp_door *door);

/* Of a stepped rig: a copy of all that changes while it runs, as an engine of the same image can go on with it. False
 * when it has none. */
bool rgp_door_checkpoint(rgp_door *door, void *memory, uint32_t bytes);

/* The unit in which what a sensor sees can be placed by hand (RGP_COMMAND_PLACE); NULL, and the reason in *why, when it
 * cannot. */
const char *rgp_door_hand_unit(const rgp_door *door, uint16_t sensor, const char **why);

/* Of a stepped rig: the seconds that the hand takes from where it found it to where it was last asked to bring it. */
double rgp_door_placing(const rgp_door *door, uint16_t sensor);

/* Of a stepped, simulated rig: the truth that no sensor tells, an output of a mechanism of the hook-up. */
bool rgp_door_truth(const rgp_door *door, uint32_t mechanism, uint32_t output, double *value);

#endif
