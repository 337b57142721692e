/* Answers of a person or a script to each dialogue: the first byte chooses it, the rest is standard input. The
 * commands run whole, on a rig file of the fuzzer's own, which they may write. */
#include "fuzz.h"

#include "tool/command.h"

#include <glib.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

static const char text[] =
    "rig basin\ntick 500 ms\nsensor level counts 0..4095\nactuator pump percent 0..100, rest at 0\n"
    "signal depth = level | table 312: 0 cm, 3020: 12 cm\n"
    "bands tide = depth: low below 3 cm, high; margin 0.4 cm\n"
    "loop bath: depth at 5 cm with pump\n    pid kp 20, ki 2, kd 0\n    one way\n"
    "hookup sim\n    tank tub: filled by pump, inflow 6 ml/s, leak 2 ml/s, start 3 cm\n"
    "    level sees tub depth: 312 at 0 cm, 3020 at 12 cm, noise 1\n    at 20 s tub pour 20 ml\n";

static const struct {
    const command *run;
    const char *argument[6];
} dialogues[] = {
    {&command_calibrate, {"calibrate", "basin.rig", "depth", "--fast"}},
    {&command_calibrate, {"calibrate", "basin.rig", "tide", "--fast", "--dry-run"}},
    {&command_calibrate, {"calibrate", "basin.rig", "pump", "--fast", "--unit", "ml"}},
    {&command_calibrate, {"calibrate", "basin.rig", "depth", "--points", "-"}},
    {&command_tune, {"tune", "basin.rig", "bath", "--script", "-"}},
};

/* The same file again, whatever was written into it. */
static void begin(void)
{
    static bool begun;
    if (!begun) {
        begun = true;
        fuzz_insist(chdir(fuzz_folder()) == 0);
    }
    g_unlink("basin.rig.undo");
    fuzz_insist(g_file_set_contents_full("basin.rig", text, -1, G_FILE_SET_CONTENTS_NONE, 0644, NULL));
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    if (size < 2) {
        return 0;
    }
    begin();
    const size_t which = data[0] % (sizeof dialogues / sizeof *dialogues);
    char *argv[8] = {NULL}, *kept[8];
    int argc = 0;
    while (argc < 6 && dialogues[which].argument[argc]) {
        kept[argc] = argv[argc] = g_strdup(dialogues[which].argument[argc]);
        argc++;
    }
    const int given = argc;
    FILE *standard = stdin;
    stdin = fmemopen((void *)(uintptr_t)(data + 1), size - 1, "r");
    fuzz_insist(stdin != NULL);
    const int status = dialogues[which].run->run(dialogues[which].run, argc, argv);
    fuzz_insist(status >= EXIT_DONE && status <= EXIT_USAGE);
    fclose(stdin);
    stdin = standard;
    for (int i = 0; i < given; i++) {
        g_free(kept[i]);
    }
    return 0;
}
