/* The door's functions: each goes to its maker, or answers for one that does not offer it. */
#include "door.h"

#include "playback.h"
#include "session.h"

#include <gio/gio.h>

rgp_door *rgp_door_open(const rgp_door_setup *setup, GError **error)
{
    return setup->recording ? playback_open(setup, error) : session_open(setup, error);
}

void rgp_door_end(rgp_door *door, rgp_door_result *result)
{
    rgp_door_result unwanted;
    door->is->end(door, result ? result : &unwanted);
    if (!result) {
        rgp_door_result_clear(&unwanted);
    }
}

void rgp_door_result_clear(rgp_door_result *result)
{
    g_free(result->complaint);
    g_free(result->account);
    result->complaint = result->account = NULL;
}

bool rgp_door_run(const rgp_door_setup *setup, rgp_door_result *result, GError **error)
{
    rgp_door *door = rgp_door_open(setup, error);
    if (door) {
        rgp_door_end(door, result);
    }
    return door != NULL;
}

const char *rgp_door_refuses(const rgp_door *door, rgp_command_kind what)
{
    return door->is->refuses(door, what);
}

rgp_status rgp_door_ask(rgp_door *door, const rgp_command *command)
{
    const rgp_status status = rgp_command_check(door->rig->image, command);
    if (status != RGP_OK) {
        return status;
    }
    return rgp_door_refuses(door, command->what) ? RGP_E_UNSUPPORTED : door->is->ask(door, command);
}

bool rgp_door_advance(rgp_door *door, uint64_t until_us)
{
    return door->is->advance ? door->is->advance(door, until_us) : false;
}

bool rgp_door_over(const rgp_door *door)
{
    return door->is->over(door);
}

void rgp_door_stop(rgp_door *door)
{
    door->is->stop(door);
}

void rgp_door_pause(rgp_door *door)
{
    door->is->pause(door);
}

void rgp_door_unpause(rgp_door *door)
{
    door->is->unpause(door);
}

rgp_history *rgp_door_look(rgp_door *door)
{
    return door->is->look(door);
}

void rgp_door_look_away(rgp_door *door)
{
    door->is->look_away(door);
}

bool rgp_door_remark(rgp_door *door, const rgp_mark_change *change, GError **error)
{
    if (!door->is->remark) {
        g_set_error_literal(error, G_IO_ERROR, G_IO_ERROR_NOT_SUPPORTED,
                            "marks are moved and taken out in a recording: rigpulse watch --from NAME");
        return false;
    }
    return door->is->remark(door, change, error);
}

bool rgp_door_mark(rgp_door *door, const char *text)
{
    return door->is->mark ? door->is->mark(door, text) : false;
}

bool rgp_door_record(rgp_door *door, const char *name, char **taken, GError **error)
{
    if (!door->is->record) {
        g_set_error_literal(error, G_FILE_ERROR, G_FILE_ERROR_PERM, "nothing can be recorded here");
        return false;
    }
    return door->is->record(door, name, taken, error);
}

bool rgp_door_is_recording(rgp_door *door)
{
    return door->is->is_recording ? door->is->is_recording(door) : false;
}

char *rgp_door_complaint(rgp_door *door)
{
    return door->is->complaint ? door->is->complaint(door) : NULL;
}

char *rgp_door_trouble(rgp_door *door)
{
    return door->is->trouble ? door->is->trouble(door) : NULL;
}

double rgp_door_share(const rgp_door *door)
{
    return door->is->share ? door->is->share(door) : 1.0;
}

rgp_delay rgp_door_delay(const rgp_door *door)
{
    return door->is->delay ? door->is->delay(door) : (rgp_delay){0};
}

bool rgp_door_checkpoint(rgp_door *door, void *memory, uint32_t bytes)
{
    return door->is->checkpoint ? door->is->checkpoint(door, memory, bytes) : false;
}

const char *rgp_door_hand_unit(const rgp_door *door, uint16_t sensor, const char **why)
{
    return door->is->hand_unit(door, sensor, why);
}

double rgp_door_placing(const rgp_door *door, uint16_t sensor)
{
    return door->is->placing ? door->is->placing(door, sensor) : 0.0;
}

bool rgp_door_truth(const rgp_door *door, uint32_t mechanism, uint32_t output, double *value)
{
    return door->is->truth ? door->is->truth(door, mechanism, output, value) : false;
}
