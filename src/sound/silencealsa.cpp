#include "sound/silencealsa.h"

#include <alsa/asoundlib.h>

namespace cobbleway {

extern "C" {
static void sayNothing(const char*, int, const char*, int, const char*, ...) {}
}

void silenceAlsa() { snd_lib_error_set_handler(&sayNothing); }

} // namespace cobbleway
