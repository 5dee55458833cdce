#version 330 core
// Skinning: joint matrices (world · inverse bind) lie four texels a joint in a float texture; the fifth is the joint's
// own ink with the number of its hatch, where the figure is tinted.
uniform sampler2D joints;
uniform mat4 seen;
uniform vec4 flatten; // x: 1 lays the figure down as a shadow, y: height of the floor
in vec3 point;
in vec3 normal;
in vec4 riding;
in vec4 weight;
out vec3 world;
out vec3 facing;
out vec3 own_ink;
flat out int hatch;

mat4 joint(float index) {
    int row = int(index + 0.5);
    return mat4(texelFetch(joints, ivec2(0, row), 0), texelFetch(joints, ivec2(1, row), 0),
                texelFetch(joints, ivec2(2, row), 0), texelFetch(joints, ivec2(3, row), 0));
}

vec4 tint(float index) {
    return texelFetch(joints, ivec2(4, int(index + 0.5)), 0);
}

void main() {
    mat4 skin = joint(riding.x) * weight.x + joint(riding.y) * weight.y
              + joint(riding.z) * weight.z + joint(riding.w) * weight.w;
    vec4 place = skin * vec4(point, 1.0);
    world = place.xyz;
    facing = mat3(skin) * normal;
    own_ink = tint(riding.x).rgb * weight.x + tint(riding.y).rgb * weight.y
            + tint(riding.z).rgb * weight.z + tint(riding.w).rgb * weight.w;
    float most = riding.x, much = weight.x;
    if (weight.y > much) { most = riding.y; much = weight.y; }
    if (weight.z > much) { most = riding.z; much = weight.z; }
    if (weight.w > much) { most = riding.w; }
    hatch = int(tint(most).a + 0.5);
    if (flatten.x > 0.5) {
        float high = max(place.y - flatten.y, 0.0);
        place.xyz += vec3(0.32, 0.0, -0.22) * high;
        place.y = flatten.y + 0.004;
    }
    gl_Position = seen * vec4(place.xyz, 1.0);
}
